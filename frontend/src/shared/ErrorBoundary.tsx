import { Component, type ReactNode } from "react";

interface Props {
  /** What stands in the place of a part that failed. */
  instead: ReactNode;
  children: ReactNode;
}

/** Keeps the failure of one part from taking the screen along. */
export class ErrorBoundary extends Component<Props, { failed: boolean }> {
  override state = { failed: false };

  static getDerivedStateFromError() {
    return { failed: true };
  }

  override render() {
    return this.state.failed ? this.props.instead : this.props.children;
  }
}

import { Link } from "react-router";
import { Button } from "./Button";
import { EmptyState } from "./EmptyState";

/** In place of a screen that could not be drawn. */
export function FailedScreen() {
  return (
    <EmptyState title="This screen could not be drawn">
      <p>It is a fault in Nebrel. What you changed is kept: try again, or go on from the shelf.</p>
      <Button onClick={() => window.location.reload()}>Try again</Button>
      <Link to="/">
        <Button variant="plain">To the shelf</Button>
      </Link>
    </EmptyState>
  );
}

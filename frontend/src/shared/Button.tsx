import { Button as BootstrapButton } from "react-bootstrap";
import type { ButtonHTMLAttributes, FunctionComponent } from "react";

interface Props extends ButtonHTMLAttributes<HTMLButtonElement> {
  variant?: "primary" | "plain";
  size?: "sm";
}

/**
 * Bootstrap's button, always a `<button>`. Its own type lets it be any element, which
 * together with the elements of the 3D library is more than the type checker can hold.
 */
export const Button = BootstrapButton as unknown as FunctionComponent<Props>;

import type { ButtonHTMLAttributes, ComponentType } from "react";
import BootstrapButton from "react-bootstrap/Button";

interface Props extends ButtonHTMLAttributes<HTMLButtonElement> {
  variant?: "primary" | "outline-secondary";
  size?: "sm";
}

/** React-Bootstrap's button as a plain button: its open choice of element is too much for the checker beside three.js. */
export const Button = BootstrapButton as unknown as ComponentType<Props>;

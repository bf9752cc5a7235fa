import type { CSSProperties, ReactNode } from "react";
import Dropdown from "react-bootstrap/Dropdown";

const FIXED = { strategy: "fixed" } as const;

interface Props {
  children: ReactNode;
  className?: string;
  style?: CSSProperties;
}

/**
 * The menu of a `Dropdown`, placed in the window and not in the page, so that no scrolling list cuts it off. Its class
 * makes it so from the start: where it first stands otherwise, it is placed as if that were its frame.
 */
export function FloatingMenu({ children, className = "", style }: Props) {
  return (
    <Dropdown.Menu popperConfig={FIXED} className={`is-floating ${className}`} style={style}>
      {children}
    </Dropdown.Menu>
  );
}

/** Shown while a file is dragged over the page. */
export function DropVeil() {
  return <div className="drop-veil">Let go to start a piece from this file</div>;
}

import Modal from "react-bootstrap/Modal";

const KEYS: [string, string][] = [
  ["1 – 5", "Go to a station"],
  ["Ctrl Z", "Take back the last change"],
  ["Ctrl Shift Z", "Bring it back"],
  ["M", "Triangles of the model on and off"],
  ["L", "Lamp behind a lithophane on and off"],
  ["Y", "The section along its line, or by layers"],
  [", and .", "By layers: one lower, one higher"],
  ["U", "Millimetres or inches"],
  ["B", "Back to the shelf"],
  ["Arrow keys", "On a number: step. On the lamp: turn. On the section line: move by 1 mm, with Shift by 0.1 mm"],
  ["Wheel", "On the Plan: closer or further; double-click shows all. The middle button moves it"],
  ["Alt Up, Alt Down", "On a picture step: to another place in the list"],
  ["Delete", "On a point of a curve: remove it"],
  ["?", "This list"],
];

export function ShortcutsDialog({ show, onHide }: { show: boolean; onHide: () => void }) {
  return (
    <Modal show={show} onHide={onHide} centered>
      <Modal.Header closeButton>
        <Modal.Title as="h2" className="fs-5">
          Keys
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <dl className="shortcut-list">
          {KEYS.map(([key, what]) => (
            <div key={key} style={{ display: "contents" }}>
              <dt>{key}</dt>
              <dd>{what}</dd>
            </div>
          ))}
        </dl>
      </Modal.Body>
    </Modal>
  );
}

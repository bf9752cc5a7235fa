import Modal from "react-bootstrap/Modal";

const NAMES: Record<string, string> = { mm: "millimetres", cm: "centimetres", m: "metres", in: "inches", ft: "feet" };

interface Props {
  name: string;
  sizes: Record<string, [number, number, number]>;
  onChoose: (unit: string) => void;
  onCancel: () => void;
}

/** Asked when a model's file does not say its unit and it would be implausibly small or large. */
export function UnitQuestion({ name, sizes, onChoose, onCancel }: Props) {
  return (
    <Modal show centered onHide={onCancel} aria-labelledby="unit-question">
      <Modal.Body>
        <h2 id="unit-question" className="fs-5">
          How large is it?
        </h2>
        <p>{name} does not say what its numbers are. Choose the size that it should have.</p>
        <div className="d-grid gap-2">
          {Object.entries(sizes).map(([unit, size]) => (
            <button key={unit} type="button" className="btn btn-outline-secondary text-start" onClick={() => onChoose(unit)}>
              {size.filter((side) => side > 0).map((side) => Number(side.toPrecision(4)).toLocaleString("en")).join(" × ")} mm
              <span className="quiet-label"> · its numbers are {NAMES[unit] ?? unit}</span>
            </button>
          ))}
        </div>
      </Modal.Body>
    </Modal>
  );
}

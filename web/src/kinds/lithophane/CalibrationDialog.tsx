import { useId, useState, type ReactNode } from "react";
import Form from "react-bootstrap/Form";
import Modal from "react-bootstrap/Modal";
import type { TranslucentMaterial, MaterialFit, Readings } from "../../api/client";
import { fetchWedge, fitMaterial, readFile, readLightBox, useMaterials } from "../../api/materials";
import { Button } from "../../ui/Button";
import { FitGraph } from "./FitGraph";
import { emptyRows, readingText, readingsOf, rowsOf, type ReadingRow } from "./readings";

const STEPS = 10;

interface Props {
  show: boolean;
  onHide: () => void;
  /** What the simulated light box is filled with, and whose colour is kept. */
  material: TranslucentMaterial;
  /** `spreadMm` is null where the spread of light was not read. */
  onUse: (material: TranslucentMaterial, spreadMm: number | null) => void;
}

/** Print a wedge, read the light behind its steps, fit, keep. */
export function CalibrationDialog({ show, onHide, material, onUse }: Props) {
  const { add } = useMaterials();
  const [rows, setRows] = useState<ReadingRow[]>([]);
  const [fit, setFit] = useState<MaterialFit | null>(null);
  const [refusal, setRefusal] = useState<string | null>(null);
  const [name, setName] = useState("");
  const [dark, setDark] = useState("");
  const [edge, setEdge] = useState<Readings["edge"]>([]);
  const [doubted, setDoubted] = useState(false);
  const [shots, setShots] = useState(1);
  const fileId = useId();
  const take = (work: Promise<Readings>) => {
    setRefusal(null);
    work.then(
      (readings) => {
        setRows(rowsOf(readings));
        setDark(readings.dark?.length ? readingText(readings.dark[0] ?? 0) : "");
        setEdge(readings.edge ?? []);
        setFit(null);
      },
      (error: Error) => setRefusal(error.message),
    );
  };
  const fitNow = () => {
    setRefusal(null);
    setDoubted(false);
    fitMaterial(readingsOf(rows, dark, edge)).then(setFit, (error: Error) => {
      setFit(null);
      setRefusal(error.message);
    });
  };
  const keep = () => {
    if (!fit) return;
    const made = {
      name: name.trim(),
      attenuation_per_mm: round(fit.attenuation_per_mm),
      surface_loss: fit.bare ? round(fit.surface_loss) : material.surface_loss,
      cast: material.cast,
    };
    const spreadMm = fit.spread_mm === null ? null : round(fit.spread_mm);
    add.mutate(
      { ...made, measured: true, spread_mm: spreadMm ?? 0 },
      {
        onSuccess: () => {
          onUse(made, spreadMm);
          onHide();
        },
      },
    );
  };
  return (
    <Modal
      show={show}
      onHide={onHide}
      size="lg"
      centered
      onShow={() => {
        setFit(null);
        setRefusal(null);
        void fetchWedge(STEPS).then((steps) => setRows(emptyRows(steps)));
      }}
    >
      <Modal.Header closeButton>
        <Modal.Title as="h2" className="fs-5">
          Measure a material
        </Modal.Title>
      </Modal.Header>
      <Modal.Body className="calibration">
        <div className="calibration-steps">
          <Step number={1} title="Print the wedge">
            <a className="btn btn-sm btn-outline-secondary" href={`/api/wedge.stl?steps=${STEPS}`} download>
              Save the wedge, {STEPS} steps
            </a>
            <p className="quiet-label">One wall, solid infill, as you will print the lithophane.</p>
          </Step>
          <Step number={2} title="Read the light behind it">
            <label htmlFor={fileId} className="quiet-label">
              A photograph cropped to the fields, thinnest left, or a CSV of mm and brightness, with lines of edge,mm,brightness across a step
            </label>
            <Form.Control
              id={fileId}
              type="file"
              size="sm"
              accept="image/*,.tif,.tiff,.csv,.txt"
              onChange={(event) => {
                const chosen = (event.currentTarget as HTMLInputElement).files?.[0];
                if (chosen) take(readFile(chosen, STEPS));
              }}
            />
            <Button
              size="sm"
              variant="outline-secondary"
              onClick={() => {
                setShots(shots + 1);
                take(readLightBox(material, STEPS, shots));
              }}
            >
              Read the simulated light box
            </Button>
            <p className="quiet-label">It holds a wedge of {material.name}; its readings shake by 1 %.</p>
          </Step>
          <Step number={3} title="Fit and keep">
            <Button size="sm" onClick={fitNow}>
              Fit
            </Button>
            {fit && (
              <>
                <dl className="facts" data-testid="fit-facts">
                  <dt>Attenuation</dt>
                  <dd>
                    {fit.attenuation_per_mm.toFixed(4)} per mm, within {fit.attenuation_within.map((each) => each.toFixed(4)).join(" to ")}
                  </dd>
                  <dt>Lost at the surfaces</dt>
                  <dd>{fit.bare ? `${(100 * fit.surface_loss).toFixed(1)} %` : "unknown, bare light not read"}</dd>
                  <dt>Read in the dark</dt>
                  <dd>{(100 * Math.max(0, fit.dark_offset)).toFixed(1)} %</dd>
                  {fit.spread_mm !== null && (
                    <>
                      <dt>Light spreads by</dt>
                      <dd>{fit.spread_mm.toFixed(3)} mm</dd>
                    </>
                  )}
                  <dt>Residuals, RMS</dt>
                  <dd>{(100 * fit.rms).toFixed(2)} %</dd>
                </dl>
                {fit.findings.map(({ measure, what, why }) => (
                  <p key={measure} className="measure-refusal" role="alert">
                    {what} {why}
                  </p>
                ))}
                <div className="d-flex gap-2">
                  <Form.Control
                    size="sm"
                    type="text"
                    placeholder="Keep it as …"
                    aria-label="Name of the measured material"
                    value={name}
                    maxLength={80}
                    onChange={(event) => setName(event.currentTarget.value)}
                  />
                  <Button
                    size="sm"
                    className="text-nowrap"
                    variant={doubted ? "outline-secondary" : "primary"}
                    onClick={() => (fit.findings.length > 0 && !doubted ? setDoubted(true) : keep())}
                    disabled={!name.trim()}
                  >
                    {doubted ? "Keep it all the same" : "Keep and use"}
                  </Button>
                </div>
              </>
            )}
            {(refusal ?? add.error?.message) && (
              <p className="measure-refusal" role="alert">
                {refusal ?? add.error?.message}
              </p>
            )}
          </Step>
        </div>
        <div>
          <table className="reading-table">
            <thead>
              <tr>
                <th scope="col">Step, mm</th>
                <th scope="col">Brightness</th>
                <th scope="col">Off the fit</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((row, at) => (
                <tr key={at}>
                  <td>{row.mm === 0 ? "bare light" : row.mm.toFixed(2)}</td>
                  <td>
                    <Form.Control
                      size="sm"
                      type="text"
                      inputMode="decimal"
                      aria-label={row.mm === 0 ? "Brightness of the bare light" : `Brightness of ${row.mm.toFixed(2)} mm`}
                      value={row.text}
                      onChange={(event) => {
                        setRows(rows.map((each, i) => (i === at ? { ...each, text: event.currentTarget.value } : each)));
                        setFit(null);
                      }}
                    />
                  </td>
                  <td>{fit && told(fit.residuals[readIndex(rows, at)])}</td>
                </tr>
              ))}
              <tr>
                <td>light covered</td>
                <td>
                  <Form.Control
                    size="sm"
                    type="text"
                    inputMode="decimal"
                    aria-label="Brightness with the light covered"
                    placeholder="not read"
                    value={dark}
                    onChange={(event) => {
                      setDark(event.currentTarget.value);
                      setFit(null);
                    }}
                  />
                </td>
                <td />
              </tr>
            </tbody>
          </table>
          {fit && <FitGraph readings={readingsOf(rows, "")} fit={fit} />}
        </div>
      </Modal.Body>
    </Modal>
  );
}

function Step({ number, title, children }: { number: number; title: string; children: ReactNode }) {
  return (
    <section aria-label={title}>
      <h3>
        {number}. {title}
      </h3>
      {children}
    </section>
  );
}

/** Which reading a row is; rows left empty are none. */
function readIndex(rows: readonly ReadingRow[], at: number): number {
  return rows[at]?.text.trim() ? rows.slice(0, at).filter((row) => row.text.trim()).length : -1;
}

function told(residual: number | undefined): string {
  return residual === undefined ? "" : `${residual >= 0 ? "+" : "−"}${Math.abs(100 * residual).toFixed(2)} %`;
}

function round(value: number): number {
  return Math.round(value * 1e4) / 1e4;
}

import { type PointerEvent, useRef, useState } from "react";
import { Form, Modal } from "react-bootstrap";
import { detailOf, type ErrorDetail, type Material, type Schemas, takeRaw } from "../api/client";
import { sendFile } from "../api/sending";
import { Button } from "../shared/Button";
import { ChooseFile } from "../shared/ChooseFile";
import { Figure, FigureList } from "../shared/Figure";
import { mm } from "../shared/format";
import { showError } from "../shared/notices";
import { NumberField } from "../shared/NumberField";
import { WedgePlot } from "./WedgePlot";
import { COLOURS } from "../shared/colours";
import { Sheet } from "../shared/Sheet";

type Result = Schemas["CalibrationOut"];
type Spot = [number, number];

interface Photo {
  file: File;
  url: string;
  cols: number;
  rows: number;
}

const NAMES = ["Upper left", "Upper right", "Lower right", "Lower left"];

interface Props {
  material: Material;
  keep: (material: Material) => Promise<unknown>;
  onClose: () => void;
}

/** Print a wedge, photograph it against the light, mark its corners, keep what it says. */
export function Calibration({ material, keep, onClose }: Props) {
  const [steps, setSteps] = useState(10);
  const [thickest, setThickest] = useState(4);
  const [photo, setPhoto] = useState<Photo>();
  const [corners, setCorners] = useState<Spot[]>([]);
  const [result, setResult] = useState<Result>();
  const [problem, setProblem] = useState<ErrorDetail>();
  const [busy, setBusy] = useState(false);
  const query = `steps=${steps}&thickest=${thickest}`;

  async function bring(file: File, marked?: Spot[]) {
    try {
      const bitmap = await createImageBitmap(file);
      const { width: cols, height: rows } = bitmap;
      bitmap.close();
      setPhoto({ file, url: URL.createObjectURL(file), cols, rows });
      const inset: Spot[] = [
        [0.1, 0.25],
        [0.9, 0.25],
        [0.9, 0.75],
        [0.1, 0.75],
      ];
      setCorners(marked ?? inset.map(([u, v]) => [u * cols, v * rows]));
      setResult(undefined);
      setProblem(undefined);
    } catch {
      setProblem({ kind: "unreadable_file", what: file.name, why: "the browser cannot show it", remedy: "Bring a JPEG or PNG" });
    }
  }

  async function practise() {
    setBusy(true);
    try {
      const response = await takeRaw(fetch(`/api/practice-photograph.png?${query}`));
      const values = (response.headers.get("X-Wedge-Corners") ?? "").split(",").map(Number);
      const marked = [0, 1, 2, 3].map((i): Spot => [values[2 * i], values[2 * i + 1]]);
      await bring(new File([await response.blob()], "practice photograph.png", { type: "image/png" }), marked);
    } catch (error) {
      showError(error);
    } finally {
      setBusy(false);
    }
  }

  async function fit() {
    if (!photo) return;
    setBusy(true);
    const marked = corners
      .flat()
      .map((value) => value.toFixed(2))
      .join(",");
    try {
      setResult(await sendFile<Result>("/api/calibrate", photo.file, { corners: marked, steps: String(steps), thickest: String(thickest) }));
      setProblem(undefined);
    } catch (error) {
      setResult(undefined);
      setProblem(detailOf(error));
    } finally {
      setBusy(false);
    }
  }

  // A fit is of the corners, the steps and the thickness it was made with.
  function mark(next: Spot[]) {
    setCorners(next);
    setResult(undefined);
  }

  async function store() {
    if (!result) return;
    try {
      await keep({ ...material, attenuation_per_mm: result.attenuation_per_mm, attenuation_error: result.error });
      onClose();
    } catch (error) {
      showError(error);
    }
  }

  return (
    <Sheet label={`Light through ${material.name}`} large onClose={onClose}>
      <Modal.Header closeButton>
        <Modal.Title as="h2">Light through {material.name}</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <p className="quiet">Print the wedge in this material, photograph it against an even light, and mark its four corners.</p>
        <div className="wedge-row">
          <Form.Group controlId="wedge-steps">
            <Form.Label>Steps</Form.Label>
            <Form.Control
              type="number"
              min={3}
              max={40}
              value={steps}
              onChange={(event) => {
                setSteps(Number(event.target.value));
                setResult(undefined);
              }}
            />
          </Form.Group>
          <Form.Group controlId="wedge-thickest">
            <Form.Label>Thickest, mm</Form.Label>
            <Form.Control
              type="number"
              min={1}
              max={20}
              step={0.5}
              value={thickest}
              onChange={(event) => {
                setThickest(Number(event.target.value));
                setResult(undefined);
              }}
            />
          </Form.Group>
          <a className="btn btn-plain" href={`/api/wedge.stl?${query}&material=${encodeURIComponent(material.name)}`} download>
            Wedge as STL
          </a>
          <ChooseFile variant="plain" label="Photograph of the wedge" accept="image/*" onFile={(file) => void bring(file)}>
            Bring the photograph
          </ChooseFile>
          <Button variant="plain" disabled={busy} onClick={() => void practise()}>
            Practice photograph
          </Button>
        </div>
        {photo && <CornerPicture photo={photo} corners={corners} set={mark} />}
        {photo && (
          <div className="corner-fields">
            {corners.flatMap((corner, index) =>
              (["across", "down"] as const).map((way, axis) => (
                <NumberField
                  key={`${NAMES[index]} ${way}`}
                  label={`${NAMES[index]}, ${way}`}
                  unit="px"
                  slider={false}
                  value={corner[axis]}
                  range={[0, (axis ? photo.rows : photo.cols) - 1]}
                  step={1}
                  onChange={(value) => mark(corners.map((old, i) => (i === index ? (axis ? [old[0], value] : [value, old[1]]) : old)))}
                />
              )),
            )}
          </div>
        )}
        {problem && (
          <p className="field-error" role="alert">
            {problem.what}: {problem.why}. {problem.remedy}.
          </p>
        )}
        {result && (
          <div className="wedge-result">
            <WedgePlot result={result} />
            <FigureList>
              <Figure name="Attenuation">
                {mm(result.attenuation_per_mm, 4)} ± {mm(result.error, 4)} per mm
              </Figure>
              <Figure name="Explained">{mm(result.r2 * 100, 2)} %</Figure>
              <Figure name="Lamp">{mm(result.lamp * 100, 0)} % of full scale</Figure>
              <Figure name="Steps used">
                {result.thickness_mm.length}
                {result.left_out > 0 && `, ${result.left_out} left out`}
              </Figure>
            </FigureList>
          </div>
        )}
      </Modal.Body>
      <Modal.Footer>
        <Button variant="plain" onClick={onClose}>
          Not now
        </Button>
        <Button variant={result ? "plain" : "primary"} disabled={!photo || busy} onClick={() => void fit()}>
          Fit
        </Button>
        {result && <Button onClick={() => void store()}>Keep for this material</Button>}
      </Modal.Footer>
    </Sheet>
  );
}

/** The photograph with four corners to drag. */
function CornerPicture({ photo, corners, set }: { photo: Photo; corners: Spot[]; set: (corners: Spot[]) => void }) {
  const held = useRef<number>(undefined);
  const size = photo.cols / 90;
  const at = (event: PointerEvent<SVGSVGElement>): Spot => {
    const box = event.currentTarget.getBoundingClientRect();
    const x = ((event.clientX - box.left) / box.width) * photo.cols;
    const y = ((event.clientY - box.top) / box.height) * photo.rows;
    return [Math.min(photo.cols - 1, Math.max(0, x)), Math.min(photo.rows - 1, Math.max(0, y))];
  };
  const move = (index: number, spot: Spot) => set(corners.map((corner, i) => (i === index ? spot : corner)));
  return (
    <svg
      className="wedge-photo"
      viewBox={`0 0 ${photo.cols} ${photo.rows}`}
      role="group"
      aria-label="Photograph of the wedge with its corners"
      onPointerDown={(event) => {
        const spot = at(event);
        const far = corners.map(([x, y]) => Math.hypot(x - spot[0], y - spot[1]));
        held.current = far.indexOf(Math.min(...far));
        event.currentTarget.setPointerCapture(event.pointerId);
        move(held.current, spot);
      }}
      onPointerMove={(event) => held.current !== undefined && move(held.current, at(event))}
      onPointerUp={() => {
        held.current = undefined;
      }}
    >
      <image href={photo.url} width={photo.cols} height={photo.rows} />
      <polygon points={corners.map((corner) => corner.join(",")).join(" ")} fill="none" stroke={COLOURS.madder} strokeWidth={size / 4} />
      {corners.map(([x, y], index) => (
        <circle
          key={NAMES[index]}
          cx={x}
          cy={y}
          r={size}
          fill="rgba(255,255,255,0.35)"
          stroke={COLOURS.madder}
          strokeWidth={size / 4}
          tabIndex={0}
          role="slider"
          aria-label={NAMES[index]}
          aria-valuenow={Math.round(x)}
          aria-valuetext={`${Math.round(x)}, ${Math.round(y)} px`}
          onKeyDown={(event) => {
            const by = event.shiftKey ? 10 : 1;
            const way: Record<string, Spot> = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, -by], ArrowDown: [0, by] };
            const step = way[event.key];
            if (!step) return;
            event.preventDefault();
            const within = (value: number, most: number) => Math.min(most - 1, Math.max(0, value));
            move(index, [within(x + step[0], photo.cols), within(y + step[1], photo.rows)]);
          }}
        />
      ))}
    </svg>
  );
}

import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { Spinner } from "react-bootstrap";
import { Link } from "react-router";
import { type Body, type FinishStep, type MeshFinding, type Recipe, Refusal, type Schemas } from "../../api/client";
import { FRESH, newId } from "../../api/fresh";
import { make } from "../../api/products";
import { Button } from "../../shared/Button";
import { Choice } from "../../shared/Choice";
import { Figure, FigureList } from "../../shared/Figure";
import { count, mm } from "../../shared/format";
import { NumberField } from "../../shared/NumberField";
import { READY_SHAPES } from "../../shared/readyShapes";
import { Switch } from "../../shared/Switch";
import { body as bodyAt, change, decorations, field, finishSteps, put } from "../at";
import { ReadyFields } from "../bodies/ReadyFields";
import { usePieceStore } from "../pieceStore";
import { FINISH } from "../steps/finish";
import { sides } from "../steps/finish/finishing";
import type { Fault } from "../steps/finish/repair";
import type { PanelProps, Stop, Told, TrailProps } from "./stop";
import { AXES } from "../../shared/axes";

const source = field(bodyAt, "body");
type Imported = Extract<Body["body"], { kind: "mesh" }>;
type Unit = Imported["unit"];

const MM: Record<string, number> = { mm: 1, cm: 10, m: 1000, in: 25.4, ft: 304.8, um: 0.001 };
const WORDS: Record<string, string> = { mm: "millimetres", cm: "centimetres", m: "metres", in: "inches", ft: "feet", um: "micrometres" };
const UPS = [
  ["z", "z"],
  ["y", "y"],
] as const;

/** What the piece begins with, how it lies, and what is wrong with it. */
function BodyPanel(props: PanelProps) {
  const { piece, recipe, figures, edit, resting } = props;
  const read = source.read(recipe);
  const set = (part: object, label: string, still: boolean) =>
    edit(
      change(source, (now) => ({ ...now, ...part }) as typeof now),
      label,
      still,
    );
  return (
    <>
      <h2>Body</h2>
      {read.kind === "mesh" && <ImportedFields body={read} piece={piece} set={set} />}
      {read.kind === "piece" && (
        <p className="intro">
          <Link to={`/pieces/${read.piece_id}`}>{read.name || "A piece"}</Link>, finished, as it is on the shelf. What is changed there is changed here.
        </p>
      )}
      {read.kind !== "mesh" && read.kind !== "piece" && (
        <>
          <p className="intro">
            {READY_SHAPES[read.kind].name}, {READY_SHAPES[read.kind].purpose}.
          </p>
          <ReadyFields body={read} set={set} />
        </>
      )}
      <LyingFields recipe={recipe} edit={edit} />
      {/* The piece is to be seen first. */}
      <MeshReport {...{ piece, recipe, edit }} resting={resting && figures !== undefined} />
      {piece.mesh && (
        <FigureList>
          <Figure name="Format">{piece.mesh.file_format.toUpperCase()}</Figure>
          <Figure name="Triangles">{count(piece.mesh.triangles)}</Figure>
          {piece.mesh.objects > 1 && <Figure name="Objects">{count(piece.mesh.objects)}</Figure>}
          <Figure name="Colours">{piece.mesh.coloured ? "yes" : "none"}</Figure>
        </FigureList>
      )}
    </>
  );
}

/** How it is turned, how large it is, and where it stands, before anything is laid on it. */
function LyingFields({ recipe, edit }: Pick<PanelProps, "recipe" | "edit">) {
  const now = bodyAt.read(recipe);
  const set = (part: Partial<Body>, label: string, still: boolean) => edit(put(bodyAt, part), label, still);
  return (
    <>
      <h3 className="mt-3">How it lies</h3>
      {AXES.map((axis) => (
        <NumberField
          key={axis}
          label={`Turned about ${axis}`}
          unit="°"
          value={now[`turn_${axis}`]}
          range={[-180, 180]}
          step={15}
          slider={false}
          onChange={(turn, r) => set({ [`turn_${axis}`]: turn }, "turn", r)}
        />
      ))}
      <NumberField
        label="Times as large"
        value={now.times}
        range={[0.001, 1000]}
        step={0.1}
        slider={false}
        onChange={(times, r) => set({ times }, "size", r)}
      />
      <Switch label="Set down in the middle" value={now.set_down} onChange={(set_down) => set({ set_down }, "set down", true)} />
    </>
  );
}

interface ImportedProps {
  body: Imported;
  piece: PanelProps["piece"];
  set: (part: Partial<Imported>, label: string, still: boolean) => void;
}

/** What the numbers of a mesh from a file are taken for. */
function ImportedFields({ body: read, piece: { mesh }, set }: ImportedProps) {
  if (!mesh) return null;
  const said = mesh.unit;
  const units: (readonly [Unit, string])[] = [
    ...(said ? [["file", "its own"] as const] : []),
    ...(["mm", "cm", "m", "in"] as const).map((unit) => [unit, unit] as const),
  ];
  const now = read.unit === "file" && !said ? "mm" : read.unit;
  const taken = now === "file" ? (said ?? "mm") : now;
  return (
    <>
      <p className="intro">{mesh.filename}, as it was brought. It is kept unchanged; what is done to it stands at Finish.</p>
      <Choice
        label="Unit"
        value={now}
        options={units}
        help={`In ${WORDS[taken]} it is ${sides(mesh.size.map((side) => side * MM[taken]))} mm.`}
        onChange={(unit) => set({ unit }, "unit", true)}
      />
      <p className={!said && mesh.guess !== "mm" && now === mesh.guess ? "field-caution" : "field-help"}>
        {said ? `The file says ${WORDS[said]}.` : `The file does not say its unit: ${mesh.why}.`}
      </p>
      <Choice label="Up is its" value={read.up} options={UPS} onChange={(up) => set({ up }, "up", true)} />
      {mesh.notes.map((note) => (
        <p key={note} className="state-caution">
          {note}
        </p>
      ))}
    </>
  );
}

type ReportProps = Pick<PanelProps, "piece" | "recipe" | "edit" | "resting">;

/** Asked for what is kept; another unit is another report. */
function useMeshReport({ piece, recipe, resting }: Omit<ReportProps, "edit">) {
  return useQuery({
    queryKey: ["mesh report", piece.id, JSON.stringify([bodyAt.read(recipe), recipe.made_with.printer.line_mm])],
    enabled: resting,
    queryFn: async ({ signal }): Promise<Schemas["FaultsOut"]> => {
      const job = await make(piece, "faults.json", recipe, () => !signal.aborted);
      if (job.state !== "done" || !job.faults) throw job.error ? new Refusal(job.error) : new Error("called off");
      return job.faults;
    },
    staleTime: Infinity,
    retry: false,
  });
}

const TONES = { wrong: "state-wrong", caution: "state-caution", note: "state-quiet" };
const SAID = { wrong: "will not print as meant", caution: "may not print as meant", note: "good to know" };

/** What of the mesh will not print as meant, each with what mends it. */
function MeshReport({ piece, recipe, edit, resting }: ReportProps) {
  const { data, isFetching, error } = useMeshReport({ piece, recipe, resting });
  const { marked, markSpots, choose } = usePieceStore();
  const go = usePieceStore((state) => state.go);
  useEffect(() => () => markSpots(undefined, []), [markSpots]);
  function mend(kind: FinishStep["kind"], fault?: Fault) {
    markSpots(undefined, []);
    const list = finishSteps.read(recipe);
    const known = list.find((step) => step.kind === kind);
    const only = fault ? { only: [fault] } : {};
    const step = known ?? ({ ...FRESH.finish[kind], ...only, id: newId("finish") } as FinishStep);
    // Mending comes before whatever is done to what is mended.
    if (!known)
      edit(
        change(finishSteps, (now) => (kind === "repair" ? [step, ...now] : [...now, step])),
        `add ${FINISH[kind].name.toLowerCase()}`,
        true,
      );
    else if (known.kind === "repair" && known.only.length) {
      // One fault more, or from now on all of them.
      const more = fault ? [...new Set([...known.only, fault])] : [];
      edit(
        change(finishSteps, (now) => now.map((one) => (one.id === known.id ? { ...one, only: more, enabled: true } : one))),
        "repair",
        true,
      );
    } else if (!known.enabled)
      edit(
        change(finishSteps, (now) => now.map((one) => (one.id === known.id ? { ...one, enabled: true } : one))),
        "switch on",
        true,
      );
    choose("finish", step.id);
    go("finish");
  }
  return (
    <section className="report" aria-label="Mesh report">
      <h3>
        Report
        {isFetching && <Spinner role="status" size="sm" className="ms-2" aria-label="Looking for faults" />}
      </h3>
      {error && <p className="state-wrong">{error instanceof Refusal ? `${error.detail.why}. ${error.detail.remedy}.` : "It could not be made."}</p>}
      {data?.report.length === 0 && <p className="state-good">Closed, and nothing stands in the way.</p>}
      {data?.report.some((finding) => finding.fault && !isMended(finding, recipe)) && (
        <Button size="sm" className="mb-2" onClick={() => mend("repair")}>
          Repair everything
        </Button>
      )}
      <ul>
        {data?.report.map((finding) => (
          <Finding
            key={finding.kind}
            finding={finding}
            mended={isMended(finding, recipe)}
            shown={marked === finding.kind}
            show={() => (marked === finding.kind ? markSpots(undefined, []) : markSpots(finding.kind, finding.spots_mm as [number, number, number][]))}
            mend={mend}
          />
        ))}
      </ul>
    </section>
  );
}

/** Whether a step that is switched on does what mends something. */
export const isMended = ({ remedy, fault }: Pick<MeshFinding, "remedy" | "fault">, { finish }: Recipe): boolean =>
  finish.some((step) => step.enabled && step.kind === remedy && (step.kind !== "repair" || !step.only.length || Boolean(fault && step.only.includes(fault))));

interface FindingProps {
  finding: MeshFinding;
  /** A step of Finish does what mends it. */
  mended: boolean;
  shown: boolean;
  show: () => void;
  mend: (kind: FinishStep["kind"], fault?: Fault) => void;
}

function Finding({ finding, mended, shown, show, mend }: FindingProps) {
  const { remedy, fault } = finding;
  return (
    <li className="finding" data-kind={finding.kind}>
      <div className={`finding-state ${mended ? "state-good" : TONES[finding.severity]}`}>{mended ? "a step of Finish mends it" : SAID[finding.severity]}</div>
      {finding.text}.
      <div className="finding-actions">
        {remedy && !mended && (
          <Button size="sm" variant="plain" onClick={() => mend(remedy, fault ?? undefined)}>
            {fault ? "Mend these" : FINISH[remedy].name}
          </Button>
        )}
        {finding.spots_mm.length > 0 && (
          <button type="button" className="btn btn-sm btn-link" aria-pressed={shown} onClick={show}>
            {shown ? "Hide" : "Show me"}
          </button>
        )}
      </div>
    </li>
  );
}

function useTold({ piece, recipe, figures, open }: TrailProps): Told {
  const { data } = useMeshReport({ piece, recipe, resting: open && figures !== undefined });
  const read = source.read(recipe);
  const figure = piece.mesh
    ? `${count(piece.mesh.triangles)} triangles`
    : read.kind === "mesh"
      ? "a mesh"
      : read.kind === "piece"
        ? "a piece"
        : READY_SHAPES[read.kind].name.toLowerCase();
  const wrong = data?.report.filter((finding) => finding.severity === "wrong").length ?? 0;
  if (wrong) return { figure, state: `${wrong} kind${wrong === 1 ? "" : "s"} of fault`, tone: "wrong" };
  const unit = read.kind === "mesh" ? read.unit : "mm";
  const taken = piece.mesh && !piece.mesh.unit && unit !== "mm" ? `taken as ${WORDS[unit] ?? unit}` : undefined;
  // Its height is known once it was made; nothing is told of what was made of it.
  const plain = recipe.finish.length === 0 && decorations.read(recipe).length === 0;
  const tall = plain && figures ? ` × ${mm(figures.mesh.size_mm[2], 1)}` : "";
  const size = piece.wide_mm ? `${mm(piece.wide_mm, 1)} × ${mm(piece.tall_mm, 1)}${tall} mm` : read.kind === "piece" ? read.name : "turned or sized";
  return { figure, state: taken ?? (data && piece.mesh ? "whole" : size), tone: taken ? "caution" : "quiet" };
}

export const body: Stop = { id: "body", name: "Body", Panel: BodyPanel, useTold };

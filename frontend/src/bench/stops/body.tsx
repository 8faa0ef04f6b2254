import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { Spinner } from "react-bootstrap";
import { type FinishStep, type MeshFinding, Refusal, type Schemas } from "../../api/client";
import { FRESH, newId } from "../../api/fresh";
import { make } from "../../api/products";
import { Button } from "../../shared/Button";
import { Choice } from "../../shared/Choice";
import { Figure, FigureList } from "../../shared/Figure";
import { count, mm } from "../../shared/format";
import { body as bodyAt, change, field, finishSteps } from "../at";
import { useBench } from "../benchStore";
import { usePieceStore } from "../pieceStore";
import { FINISH } from "../steps/finish";
import { sides } from "../steps/finish/finishing";
import type { Fault } from "../steps/finish/repair";
import type { PanelProps, Stop, Told, TrailProps } from "./stop";

const imported = field(bodyAt, "body");
type Unit = ReturnType<typeof imported.read>["unit"];

const MM: Record<string, number> = { mm: 1, cm: 10, m: 1000, in: 25.4, ft: 304.8, um: 0.001 };
const WORDS: Record<string, string> = { mm: "millimetres", cm: "centimetres", m: "metres", in: "inches", ft: "feet", um: "micrometres" };
const UPS = [
  ["z", "z"],
  ["y", "y"],
] as const;

/** What a mesh is as it was brought, and what is wrong with it. */
function BodyPanel({ piece, recipe, figures, edit, resting }: PanelProps) {
  const { mesh } = piece;
  const read = imported.read(recipe);
  const set = (part: Partial<typeof read>, label: string) => edit(change(imported, (now) => ({ ...now, ...part })), label, true);
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
      <h2>Body</h2>
      <p className="intro">{mesh.filename}, as it was brought. It is kept unchanged; what is done to it stands at Finish.</p>
      <Choice
        label="Unit"
        value={now}
        options={units}
        help={`In ${WORDS[taken]} it is ${sides(mesh.size.map((side) => side * MM[taken]))} mm.`}
        onChange={(unit) => set({ unit }, "unit")}
      />
      <p className={!said && mesh.guess !== "mm" && now === mesh.guess ? "field-caution" : "field-help"}>
        {said ? `The file says ${WORDS[said]}.` : `The file does not say its unit: ${mesh.why}.`}
      </p>
      <Choice label="Up is its" value={read.up} options={UPS} onChange={(up) => set({ up }, "up")} />
      {mesh.notes.map((note) => (
        <p key={note} className="state-caution">
          {note}
        </p>
      ))}
      {/* The piece is to be seen first. */}
      <MeshReport {...{ piece, recipe, edit }} resting={resting && figures !== undefined} />
      <FigureList>
        <Figure name="Format">{mesh.file_format.toUpperCase()}</Figure>
        <Figure name="Triangles">{count(mesh.triangles)}</Figure>
        {mesh.objects > 1 && <Figure name="Objects">{count(mesh.objects)}</Figure>}
        <Figure name="Colours">{mesh.coloured ? "yes" : "none"}</Figure>
      </FigureList>
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
  const go = useBench((state) => state.go);
  useEffect(() => () => markSpots(undefined, []), [markSpots]);
  function mend(kind: FinishStep["kind"], fault?: Fault) {
    markSpots(undefined, []);
    const list = finishSteps.read(recipe);
    const known = list.find((step) => step.kind === kind);
    const only = fault ? { only: [fault] } : {};
    const step = known ?? ({ ...FRESH.finish[kind], ...only, id: newId("finish") } as FinishStep);
    // Mending comes before whatever is done to what is mended.
    if (!known) edit(change(finishSteps, (now) => (kind === "repair" ? [step, ...now] : [...now, step])), `add ${FINISH[kind].name.toLowerCase()}`, true);
    else if (known.kind === "repair" && known.only.length) {
      // One fault more, or from now on all of them.
      const more = fault ? [...new Set([...known.only, fault])] : [];
      edit(change(finishSteps, (now) => now.map((one) => (one.id === known.id ? { ...one, only: more, enabled: true } : one))), "repair", true);
    } else if (!known.enabled) edit(change(finishSteps, (now) => now.map((one) => (one.id === known.id ? { ...one, enabled: true } : one))), "switch on", true);
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
      {data?.report.some(({ fault }) => fault) && (
        <Button size="sm" className="mb-2" onClick={() => mend("repair")}>
          Repair everything
        </Button>
      )}
      <ul>
        {data?.report.map((finding) => (
          <Finding
            key={finding.kind}
            finding={finding}
            shown={marked === finding.kind}
            show={() => (marked === finding.kind ? markSpots(undefined, []) : markSpots(finding.kind, finding.spots_mm as [number, number, number][]))}
            mend={mend}
          />
        ))}
      </ul>
    </section>
  );
}

interface FindingProps {
  finding: MeshFinding;
  shown: boolean;
  show: () => void;
  mend: (kind: FinishStep["kind"], fault?: Fault) => void;
}

function Finding({ finding, shown, show, mend }: FindingProps) {
  const { remedy, fault } = finding;
  return (
    <li className="finding" data-kind={finding.kind}>
      <div className={`finding-state ${TONES[finding.severity]}`}>{SAID[finding.severity]}</div>
      {finding.text}.
      <div className="finding-actions">
        {remedy && (
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
  const figure = `${count(piece.mesh?.triangles ?? 0)} triangles`;
  const wrong = data?.report.filter((finding) => finding.severity === "wrong").length ?? 0;
  if (wrong) return { figure, state: `${wrong} kind${wrong === 1 ? "" : "s"} of fault`, tone: "wrong" };
  const { unit } = imported.read(recipe);
  const taken = !piece.mesh?.unit && unit !== "mm" ? `taken as ${WORDS[unit] ?? unit}` : undefined;
  return { figure, state: taken ?? (data ? "whole" : `${mm(piece.wide_mm, 1)} × ${mm(piece.tall_mm, 1)} mm`), tone: taken ? "caution" : "quiet" };
}

export const body: Stop = { id: "body", name: "Body", Panel: BodyPanel, useTold };

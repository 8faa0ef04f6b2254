import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Spinner } from "react-bootstrap";
import { Link } from "react-router";
import { addMesh, api, type FinishStep, type Schemas, take } from "../../../api/client";
import { ChooseFile } from "../../../shared/ChooseFile";
import { Choice } from "../../../shared/Choice";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { showError } from "../../../shared/notices";
import { SelectField } from "../../../shared/SelectField";
import { Changed } from "./Changed";
import { type Editing, type Finishing, waits } from "./finishing";
import { AXES } from "../../../shared/axes";

type Join = Extract<FinishStep, { kind: "join" }>;

const WAYS = [
  ["add", "added"],
  ["subtract", "taken away"],
  ["common", "in common"],
  ["beside", "beside"],
] as const;
const PIVOTS = [
  ["below", "middle of its underside"],
  ["middle", "its middle"],
  ["origin", "its own origin"],
] as const;
/** None yet: it is refused in words until one is chosen. */
const NONE = "";

function JoinEditor(props: Editing<"join">) {
  const { step, set } = props;
  return (
    <>
      <Mate {...props} />
      {waits(step) && <p className="field-help">Choose what it is joined with.</p>}
      <Choice label="It is" value={step.by} options={WAYS} onChange={(by) => set({ by })} />
      <SelectField label="Placed by" value={step.pivot} options={PIVOTS} onChange={(pivot) => set({ pivot })} />
      {AXES.map((axis) => (
        <LengthField
          key={axis}
          label={axis}
          value={step[axis]}
          range={[-200, 200]}
          limits={[-100_000, 100_000]}
          step={0.5}
          slider
          onChange={(at, r) => set({ [axis]: at }, r)}
        />
      ))}
      {AXES.map((axis) => (
        <NumberField
          key={axis}
          label={`About ${axis}`}
          unit="°"
          value={step[`turn_${axis}`]}
          range={[-180, 180]}
          step={15}
          slider={false}
          onChange={(turn, r) => set({ [`turn_${axis}`]: turn }, r)}
        />
      ))}
      <NumberField label="Times as large" value={step.times} range={[0.0001, 10_000]} step={0.1} slider={false} onChange={(times, r) => set({ times }, r)} />
      <Changed {...props} />
    </>
  );
}

/** What it is joined with: a piece of the shelf, which stays linked, or a mesh. */
function Mate({ step, set, piece }: Editing<"join">) {
  const [busy, setBusy] = useState(false);
  const { data } = useQuery({ queryKey: ["pieces", ""], queryFn: () => take(api.GET("/api/pieces", { params: { query: { query: "" } } })) });
  const { other } = step;
  const linked = other.kind === "piece" ? other : undefined;
  const pieces = data?.filter((one) => one.id !== piece.id && !one.trouble) ?? [];
  const known = !linked || linked.piece_id === NONE || pieces.some((one) => one.id === linked.piece_id);
  const options = [
    [NONE, other.kind === "mesh" ? other.file.filename : "choose a piece"] as const,
    ...(known ? [] : [[linked.piece_id, `${linked.name || "a piece"}, gone`] as const]),
    ...pieces.map((one) => [one.id, one.name] as const),
  ];
  async function act(what: () => Promise<Join["other"]>) {
    setBusy(true);
    try {
      set({ other: await what() });
    } catch (error) {
      showError(error);
    } finally {
      setBusy(false);
    }
  }
  const link = (id: string) =>
    act(async () => {
      const { recipe, name } = await take(api.GET("/api/pieces/{piece_id}", { params: { path: { piece_id: id } } }));
      return { kind: "piece", piece_id: id, name, recipe: recipe as unknown as Record<string, unknown> };
    });
  const bring = (file: File) =>
    act(async () => {
      const { sha256, filename, unit, guess } = await addMesh(file);
      return { kind: "mesh", file: { sha256, filename }, unit: unit ? "file" : guess, up: "z" };
    });
  return (
    <>
      <SelectField label="With" value={linked?.piece_id ?? NONE} options={options} onChange={(id) => id !== NONE && void link(id)} />
      <div className="field d-flex gap-2 align-items-center">
        <ChooseFile
          size="sm"
          variant="plain"
          className="text-nowrap"
          disabled={busy}
          label="Mesh to join with"
          accept=".stl,.3mf,.obj,.ply,.glb,.gltf,.off"
          onFile={(file) => void bring(file)}
        >
          {busy && <Spinner size="sm" className="me-2" />}A mesh file
        </ChooseFile>
        {linked && linked.piece_id !== NONE && known && <Link to={`/pieces/${linked.piece_id}`}>Open “{linked.name}”</Link>}
      </div>
      {linked && linked.piece_id !== NONE && <p className="field-help">It stays linked: change it there, and it changes here.</p>}
    </>
  );
}

const nameOf = ({ other }: Join): string => (other.kind === "piece" ? other.name : (other as Schemas["ImportedBody-Output"]).file.filename);

export const join: Finishing<"join"> = {
  name: "Join",
  purpose: "with another piece or a mesh: added, taken away, in common, beside",
  also: "boolean, union, subtract, difference, intersect, combine",
  group: "Shape",
  title: (step) => (nameOf(step) ? `Join: ${nameOf(step)}` : "Join"),
  word: "join",
  figure: (step) => (nameOf(step) ? (WAYS.find(([by]) => by === step.by)?.[1] ?? "") : "with nothing yet"),
  fresh: () => ({ other: { kind: "piece", piece_id: NONE, name: "", recipe: null } }),
  Editor: JoinEditor,
};

import type { Figures, Piece, Recipe } from "../api/client";
import { count, mm, size } from "../shared/format";
import { passing } from "../shared/passing";
import { art, corrections, form, formKind, tones } from "./at";
import { STOPS, type Stop, useBench } from "./benchStore";
import { type Light, useLight } from "./light/useLight";
import type { PieceMesh } from "./usePieceMesh";

interface Props {
  piece: Piece;
  recipe: Recipe;
  figures: Figures | undefined;
  mesh: PieceMesh;
}

interface StopText {
  name: string;
  figure: string;
  state: string;
  tone: "good" | "caution" | "wrong" | "quiet";
}

function pictureState({ piece, recipe, figures }: Props): Pick<StopText, "state" | "tone"> {
  const { picture } = piece;
  const failed = figures?.picture.failed ?? 0;
  if (failed) return { state: `${failed} not applied`, tone: "wrong" };
  const applied = corrections.read(recipe).filter((step) => step.enabled).length;
  if (picture.notes.length) return { state: "with a remark", tone: "caution" };
  if (applied) return { state: `${applied} correction${applied === 1 ? "" : "s"}`, tone: "quiet" };
  return { state: picture.coloured ? "colour" : "gray", tone: "quiet" };
}

function heightsState(recipe: Recipe, figures: Figures | undefined): Pick<StopText, "state" | "tone"> {
  const heights = art.read(recipe);
  const { mapping, raised, pins } = tones.read(recipe);
  const remarks = figures?.heights.remarks ?? [];
  const refused = remarks.filter((remark) => remark.refused).length;
  if (refused) return { state: `${refused} not applied`, tone: "wrong" };
  const loose = heights.islands === "keep" ? (figures?.heights.islands?.length ?? 0) : 0;
  if (loose) return { state: `${loose} loose part${loose === 1 ? "" : "s"}`, tone: "caution" };
  if (remarks.length) return { state: remarks[0].error.what === "text" ? "lettering too thin" : `${remarks[0].error.what} too thin`, tone: "caution" };
  const made = heights.build_up.filter((entry) => entry.enabled).length;
  const turned = [heights.mirror && "mirrored", heights.negative && "negative"].filter(Boolean).join(", ");
  if (turned) return { state: turned, tone: "quiet" };
  if (made > 1) return { state: `${made} in the build-up`, tone: "quiet" };
  if (mapping === "light") return { state: "by light", tone: "quiet" };
  return { state: mapping === "straight" ? `${raised} tones raised` : `${pins.length} tones pinned`, tone: "quiet" };
}

/** What a hand would measure: the flat size of a panel, across and high of what stands. */
const formSize = ({ form, mesh }: Figures): [number, number] =>
  form.kind === "panel" || form.kind === "disc" || form.kind === "dome"
    ? [mesh.size_mm[0], mesh.size_mm[1]]
    : [mesh.size_mm[0], mesh.size_mm[2]];

function formWords(recipe: Recipe): string {
  const laid = form.read(recipe);
  const kind = formKind(recipe);
  if (kind === "panel") return "panel, flat";
  return "bend" in laid ? `${kind}, ${mm(laid.bend, 0)}°` : kind;
}

function formState(recipe: Recipe, figures: Figures | undefined): Pick<StopText, "state" | "tone"> {
  const refused = figures?.form.remarks?.filter((remark) => remark.refused).length ?? 0;
  if (refused) return { state: `${refused} not applied`, tone: "wrong" };
  return { state: formWords(recipe), tone: "quiet" };
}

/** Which detail, and what it means in mm. */
function finishWords({ triangles }: Recipe, { finish: fine }: Figures): string {
  const within = `${mm(fine.within_mm, 3)} mm`;
  if (fine.within_mm > fine.wanted_mm * 1.0001) return `closed, limited to ${within}`;
  return triangles.detail === "picture" ? `closed, within ${within}` : `closed, as made, within ${within}`;
}

const LIGHT_WORDS = { ideal: "as computed", lying: "printed lying", standing: "printed standing" };

function describe(props: Props, light: Light | undefined): Record<Stop, StopText> {
  const { piece, recipe, figures, mesh } = props;
  const { picture } = piece;
  const draft = figures?.quality !== "full";
  const { printed } = recipe.proof.light;
  return {
    picture: {
      name: "Picture",
      figure: `${figures?.picture.cols ?? picture.cols} × ${figures?.picture.rows ?? picture.rows}, ${picture.bit_depth}-bit`,
      ...pictureState(props),
    },
    heights: {
      name: "Heights",
      figure: figures
        ? `${mm(figures.heights.lowest_mm)} to ${mm(figures.heights.highest_mm)} mm`
        : "…",
      ...heightsState(recipe, figures),
    },
    form: {
      name: "Form",
      figure: figures ? size(...formSize(figures)) : "…",
      ...formState(recipe, figures),
    },
    finish: mesh.problem
      ? { name: "Finish", figure: "stale", state: passing(mesh.problem) ? "waits for the server" : "could not be made", tone: "wrong" }
      : {
          name: "Finish",
          figure: figures ? `${count(figures.mesh.triangles)} triangles` : "…",
          state: !figures
            ? "working"
            : draft
              ? mesh.calledOff
                ? "draft, called off"
                : "draft"
              : figures.mesh.manifold
                ? finishWords(recipe, figures)
                : "open",
          tone: !figures || draft ? "quiet" : figures.mesh.manifold ? "good" : "wrong",
        },
    proof: {
      name: "Proof",
      figure: light ? `light within ${mm(light.error[printed] * 100, 1)} %` : "light",
      state: light ? LIGHT_WORDS[printed] : "not looked at yet",
      tone: "quiet",
    },
  };
}

/** The five stops with their figures; the line beneath is itself a small section. */
export function Trail(props: Props) {
  const { stop: chosen, go } = useBench();
  const light = useLight(props.recipe, chosen === "proof" || tones.read(props.recipe).mapping === "light");
  const texts = describe(props, light);
  const at = STOPS.indexOf(chosen);
  const height = (index: number) => 81 - index * 4.2;
  const steps = STOPS.map((_, index) => {
    const x = index * 200;
    return `${index ? `L${x + 10} ${height(index)}` : `M0 ${height(0)}`} L${x + 200} ${height(index)}`;
  }).join(" ");
  const mark = `M${at * 200} ${at ? height(at - 1) : height(0)} L${at * 200 + (at ? 10 : 0)} ${height(at)} L${at * 200 + 200} ${height(at)}`;
  return (
    <nav className="trail" aria-label="Trail">
      <svg viewBox="0 0 1000 84" preserveAspectRatio="none" aria-hidden="true">
        <path d={`${steps} L1000 84 L0 84 Z`} fill="#EFE9DE" />
        <path d={steps} fill="none" stroke="#CFC5B5" strokeWidth="1.5" vectorEffect="non-scaling-stroke" />
        <path d={mark} fill="none" stroke="#9A2B45" strokeWidth="3" vectorEffect="non-scaling-stroke" strokeLinejoin="round" />
      </svg>
      {STOPS.map((stop) => {
        const { name, figure, state, tone } = texts[stop];
        return (
          <button
            key={stop}
            type="button"
            className="trail-stop"
            aria-current={stop === chosen ? "step" : undefined}
            onClick={() => go(stop)}
          >
            <span className="stop-name">{name}</span>
            <span className="mono">{figure}</span>
            <span className={`stop-state state-${tone}`}>{state}</span>
          </button>
        );
      })}
    </nav>
  );
}

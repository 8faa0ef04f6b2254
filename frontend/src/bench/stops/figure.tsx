import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { addNetwork, addPicture, api, type Figure as Begun, type Recipe, type Schemas, take } from "../../api/client";
import { FRESH } from "../../api/fresh";
import { askOnceMore } from "../../makers/askOnceMore";
import { Button } from "../../shared/Button";
import { Choice } from "../../shared/Choice";
import { ChooseFile } from "../../shared/ChooseFile";
import { Figure, FigureList } from "../../shared/Figure";
import { count, mm } from "../../shared/format";
import { LengthField } from "../../shared/LengthField";
import { NumberField } from "../../shared/NumberField";
import { sentence, showError } from "../../shared/notices";
import { SelectField } from "../../shared/SelectField";
import { Switch } from "../../shared/Switch";
import { figure as at, parts, put } from "../at";
import { useBench } from "../benchStore";
import { PARTS } from "../steps/parts";
import type { Remark } from "../steps/kinds";
import { StepList } from "../steps/StepList";
import { acting } from "./acting";
import { AxisGrips } from "./AxisGrips";
import { SideBySide } from "./SideBySide";
import type { PanelProps, Stop, Told, TrailProps } from "./stop";

type Done = NonNullable<Schemas["Figures"]["figure"]>;
type Set = (part: Partial<Begun>, label: string, resting?: boolean) => void;

interface Fields {
  begun: Begun;
  done: Done | undefined;
  set: Set;
}

const WAYS: [Begun["way"], string][] = [
  ["inflate", "inflated"],
  ["turn", "turned"],
  ["half", "half round"],
  ["learned", "learned"],
];

const HELP: Record<Begun["way"], string> = {
  inflate: "As thick as it is wide, everywhere.",
  turn: "Its outline goes around an axis: bottles, columns, lamps.",
  half: "Round in front, flat behind: for a wall.",
  learned: "As a small network reads it from light and shade. For photographs, not for flat drawings.",
};

/** How the subject of the picture becomes round. */
const TOO_THIN = {
  kind: "invalid",
  what: "part",
  why: "it is too thin for the resolution and was left out",
  remedy: "Draw it wider, or use a higher resolution",
};

function FigurePanel({ piece, recipe, figures, edit }: PanelProps) {
  const begun = at.read(recipe);
  const done = figures?.figure ?? undefined;
  const set: Set = (part, label, resting = true) => edit(put(at, part), label, resting);
  const fields = { begun, done, set };
  // The core numbers those that it is given.
  const given = begun.parts.filter((one) => one.enabled && one.kind === "part" && (one.strokes.length || one.spots.length));
  const remarks = new Map(
    (done?.thin ?? []).flatMap((number): [string, Remark][] => (given[number] ? [[given[number].id, { error: TOO_THIN, refused: true }]] : [])),
  );
  const turned = begun.way === "turn";
  return (
    <>
      <h2>Figure</h2>
      <p className="intro">The subject of the picture in the round, closed and in its colours.</p>
      <Choice label="It is" value={begun.way} options={WAYS} help={HELP[begun.way]} onChange={(way) => set({ way }, "way to the round")} />
      <LengthField label="Tall" value={begun.tall} range={[10, 300]} limits={[0.1, 5000]} step={1} slider onChange={(tall, r) => set({ tall }, "height", r)} />
      <Thickness {...fields} />
      {turned ? <Turning {...fields} /> : <Rounding {...fields} />}
      <h3 className="mt-3">Detail from light and dark</h3>
      <LengthField
        label="Detail"
        value={begun.detail}
        range={[0, 3]}
        limits={[0, 20]}
        step={0.05}
        slider
        help="What is fine in the picture’s light becomes height; paint does not."
        onChange={(detail, r) => set({ detail }, "detail", r)}
      />
      {begun.detail.mm > 0 && <Switch label="Dark stands out" value={begun.dark_stands} onChange={(dark_stands) => set({ dark_stands }, "detail")} />}
      {!turned && (
        <StepList
          title="Parts"
          what="parts"
          one="part"
          list="parts"
          kinds={PARTS}
          fresh={{ part: FRESH.part, calm: FRESH.calm }}
          place={parts}
          recipe={recipe}
          context={{}}
          remarks={remarks}
          edit={edit}
          empty="None: all of it is one body."
        />
      )}
      <h3 className="mt-3">Standing</h3>
      <LengthField
        label="Plate under it"
        value={begun.base}
        range={[0, 20]}
        limits={[0, 100]}
        step={0.5}
        slider
        help="As wide as it has to be, so that it does not tip."
        onChange={(base, r) => set({ base }, "plate", r)}
      />
      <LengthField
        label="Feet"
        value={begun.feet}
        range={[0, 15]}
        limits={[0, 100]}
        step={0.5}
        slider
        help="Four of them, under all of it; as far apart as it allows."
        onChange={(feet, r) => set({ feet }, "feet", r)}
      />
      <h3 className="mt-3">Beside the picture</h3>
      <BroughtPicture label="Mask" of={begun.mask} help="Light is the subject." put={(mask) => set({ mask }, "mask")} />
      {!turned && (
        <BroughtPicture
          label="Depth picture"
          of={begun.depth_picture}
          help="As large as the picture; light is near."
          put={(depth_picture) => set({ depth_picture }, "depth picture")}
        />
      )}
      {!turned && <OwnNetwork {...fields} />}
      {["inflate", "learned"].includes(begun.way) && (
        <BroughtPicture
          label="Seen from behind"
          of={begun.back_picture}
          help="Its colours go on the back; so do its light and shade, as detail, and where the figure is learned."
          put={(back_picture) => set({ back_picture }, "back picture")}
        />
      )}
      <h3 className="mt-3">Colours and fineness</h3>
      <Colours {...fields} />
      <NumberField
        label="Resolution"
        value={begun.resolution}
        range={[64, 1400]}
        step={32}
        onChange={(resolution, r) => set({ resolution: Math.round(resolution) }, "resolution", r)}
      />
      {done && (
        <p className={done.gb > 2 ? "field-caution" : "field-help"}>
          Cells along its longer side: about {mm(done.seconds, done.seconds < 10 ? 1 : 0)} s and {mm(done.gb, 1)} GB here.
        </p>
      )}
      {done && <Came done={done} />}
      <SideBySide recipe={recipe} ways={WAYS} set={set} />
      <h3 className="mt-3">Made elsewhere</h3>
      <OrderIt recipe={recipe} name={piece.name} />
    </>
  );
}

/** Have the subject made into a model by a service. */
function OrderIt({ recipe, name }: { recipe: Recipe; name: string }) {
  const navigate = useNavigate();
  const [busy, setBusy] = useState(false);
  async function order(again: boolean) {
    setBusy(true);
    try {
      await take(api.POST("/api/orders/figure", { body: { recipe, name, service: "practice", again } }));
      void navigate("/makers");
    } catch (error) {
      askOnceMore(error, () => void order(true));
    } finally {
      setBusy(false);
    }
  }
  return (
    <>
      <Button size="sm" variant="plain" disabled={busy} onClick={() => void order(false)}>
        Order a model of the subject
      </Button>
      <p className="field-help">
        Cut out as it is here, for credits. See the <Link to="/makers">model makers</Link>.
      </p>
    </>
  );
}

function Thickness({ begun, set }: Fields) {
  const round = begun.thick === null;
  return (
    <>
      <Switch label="As thick as it is wide" value={round} onChange={(on) => set({ thick: on ? null : { mm: begun.tall.mm / 4, text: null } }, "thickness")} />
      {begun.thick && (
        <LengthField
          label="Thick"
          value={begun.thick}
          range={[1, 200]}
          limits={[0.1, 5000]}
          step={0.5}
          slider
          help="Where it is thickest."
          onChange={(thick, r) => set({ thick }, "thickness", r)}
        />
      )}
    </>
  );
}

function Rounding({ begun, set }: Fields) {
  return (
    <>
      {["inflate", "learned"].includes(begun.way) && (
        <SelectField
          label="Its back"
          value={begun.back}
          options={[
            ["mirror", "as its front"],
            ["smooth", "shallower"],
            ["flat", "flat"],
          ]}
          onChange={(back) => set({ back }, "back")}
        />
      )}
      <NumberField label="Roundness" value={begun.roundness} range={[0.05, 1]} step={0.05} onChange={(roundness, r) => set({ roundness }, "roundness", r)} />
      <p className="field-help">Less makes what is wide flat, with a round edge.</p>
      <LengthField
        label="Softness"
        value={begun.softness}
        range={[0, 5]}
        limits={[0, 20]}
        step={0.1}
        slider
        help="By how much its outline is smoothed."
        onChange={(softness, r) => set({ softness }, "softness", r)}
      />
    </>
  );
}

function Turning({ begun, done, set }: Fields) {
  const { axis } = begun;
  const found = done?.axis;
  return (
    <>
      <Switch
        label="Axis found by itself"
        value={axis === null}
        onChange={(on) => set({ axis: on ? null : { ...FRESH.axis, at: found?.[0] ?? 0, tilt: found?.[1] ?? 0 } }, "axis")}
      />
      {axis ? (
        <>
          <NumberField
            label="Right of the middle"
            unit="%"
            value={Number((axis.at * 100).toFixed(2))}
            range={[-50, 50]}
            step={0.5}
            onChange={(share, r) => set({ axis: { ...axis, at: share / 100 } }, "axis", r)}
          />
          <NumberField
            label="Leans to the right"
            unit="°"
            value={axis.tilt}
            range={[-40, 40]}
            step={0.5}
            onChange={(tilt, r) => set({ axis: { ...axis, tilt } }, "axis", r)}
          />
        </>
      ) : (
        found && (
          <p className="field-help">
            It is {mm(Math.abs(found[0]) * 100, 1)} % {found[0] < 0 ? "left" : "right"} of the middle
            {found[1] ? ` and leans ${mm(Math.abs(found[1]), 1)}° to the ${found[1] < 0 ? "left" : "right"}` : ""}.
          </p>
        )
      )}
      <Switch label="Half round" value={begun.half_round} onChange={(half_round) => set({ half_round }, "half round")} />
      <LengthField
        label="Wall"
        value={begun.wall}
        range={[0, 10]}
        limits={[0, 100]}
        step={0.2}
        slider
        help="0 is solid; else it is hollow, and open above."
        onChange={(wall, r) => set({ wall }, "wall", r)}
      />
    </>
  );
}

function Colours({ begun, set }: Fields) {
  const look = useBench((state) => state.setLook);
  return (
    <>
      <Switch
        label="Coloured"
        value={begun.coloured}
        onChange={(coloured) => {
          set({ coloured }, "colours");
          look(coloured ? "coloured" : "surface");
        }}
      />
      {begun.coloured && (
        <>
          <Switch label="Few colours" value={begun.colours !== null} onChange={(few) => set({ colours: few ? 6 : null }, "colours")} />
          {begun.colours !== null && (
            <NumberField
              label="No more than"
              value={begun.colours}
              range={[1, 64]}
              step={1}
              onChange={(colours, r) => set({ colours: Math.round(colours) }, "colours", r)}
            />
          )}
        </>
      )}
    </>
  );
}

/** Any network that tells depth or normals, from a file. */
function OwnNetwork({ begun: { network, depth_picture }, set }: Fields) {
  const change = (part: object) => network && set({ network: { ...network, ...part } }, "network");
  const bring = async (file: File) => {
    const { sha256, filename, gives } = await addNetwork(file);
    set({ network: { ...(network ?? FRESH.network), gives, file: { sha256, filename } } }, "network");
  };
  return (
    <>
      <Brought
        label="Network of your own"
        of={network?.file ?? null}
        accept=".onnx"
        help="An ONNX file that tells depth or normals. It runs here, and fetches nothing."
        bring={bring}
        without={() => set({ network: null }, "network")}
      />
      {network && (
        <>
          {depth_picture && <p className="field-caution">The depth picture comes before it.</p>}
          <Choice
            label="It gives"
            value={network.gives}
            options={[
              ["depth", "depth"],
              ["normals", "normals"],
            ]}
            onChange={(gives) => change({ gives })}
          />
          {network.gives === "depth" && (
            <Choice
              label="Near is"
              value={network.near}
              options={[
                ["large", "large"],
                ["small", "small"],
              ]}
              onChange={(near) => change({ near })}
            />
          )}
          <SelectField
            label="It takes"
            value={network.values}
            options={[
              ["photograph", "usual photographs"],
              ["0 to 1", "0 to 1"],
              ["-1 to 1", "-1 to 1"],
              ["0 to 255", "0 to 255"],
            ]}
            onChange={(values) => change({ values })}
          />
          <Choice
            label="Channels"
            value={network.order}
            options={[
              ["rgb", "red first"],
              ["bgr", "blue first"],
            ]}
            onChange={(order) => change({ order })}
          />
        </>
      )}
    </>
  );
}

interface FileProps {
  label: string;
  help: string;
  of: { filename: string } | null;
  accept?: string;
  bring: (file: File) => Promise<void>;
  without: () => void;
}

interface PictureProps extends Pick<FileProps, "label" | "help"> {
  of: Begun["mask"];
  put: (file: Begun["mask"]) => void;
}

/** A picture that belongs to the one of the figure. */
function BroughtPicture({ put, ...props }: PictureProps) {
  const bring = async (file: File) => {
    const { sha256, filename } = await addPicture(file);
    put({ sha256, filename });
  };
  return <Brought {...props} bring={bring} without={() => put(null)} />;
}

/** A file beside the picture, to be chosen and taken away. */
function Brought({ label, help, of, accept = "image/*,.tif,.tiff", bring: take, without }: FileProps) {
  const [busy, setBusy] = useState(false);
  async function bring(file: File) {
    setBusy(true);
    try {
      await take(file);
    } catch (error) {
      showError(error);
    } finally {
      setBusy(false);
    }
  }
  return (
    <div className="field">
      <div className="d-flex align-items-center gap-2">
        <span className="flex-grow-1">{label}</span>
        {of && (
          <Button size="sm" variant="plain" aria-label={`${label}: without it`} onClick={without}>
            Without it
          </Button>
        )}
        <ChooseFile label={label} accept={accept} size="sm" variant="plain" disabled={busy} onFile={(file) => void bring(file)}>
          {of ? "Another" : "Choose"}
        </ChooseFile>
      </div>
      <div className="field-help">{of ? of.filename : help}</div>
    </div>
  );
}

function Came({ done }: { done: Done }) {
  return (
    <>
      {done.notes.map((note) => (
        <p key={note} className="state-caution">
          {sentence(note)}.
        </p>
      ))}
      <FigureList>
        <Figure name="Subject">
          {count(done.subject_px[0])} × {count(done.subject_px[1])} px
        </Figure>
        {done.outline !== null && <Figure name="Outline as in the picture">{mm(done.outline * 100, 1)} %</Figure>}
        <Figure name="Tips at">{done.tips_deg > 0 ? `${mm(done.tips_deg, 1)}°` : "it does not stand"}</Figure>
      </FigureList>
    </>
  );
}

function useTold({ recipe, figures, mesh }: TrailProps): Told {
  const begun = at.read(recipe);
  const way = WAYS.find(([name]) => name === begun.way)?.[1] ?? "";
  if (mesh.problem) return { figure: way, state: "could not be made", tone: "wrong" };
  const size = figures && `${figures.mesh.size_mm.map((side) => mm(side, 0)).join(" × ")} mm`;
  const own = begun.parts.filter((part) => part.enabled && part.kind === "part").length;
  return { figure: size ?? way, state: own && begun.way !== "turn" ? `${way}, ${own} part${own === 1 ? "" : "s"}` : way, tone: "quiet" };
}

export const figure: Stop = { id: "figure", name: "Figure", Panel: FigurePanel, useTold, acting: acting("parts", parts, PARTS), Under: AxisGrips, bare: true };

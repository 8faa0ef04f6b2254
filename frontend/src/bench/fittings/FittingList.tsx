import { Dropdown } from "react-bootstrap";
import type { ErrorDetail, Figures, Fitting, Recipe } from "../../api/client";
import { FRESH, newId } from "../../api/fresh";
import { mm } from "../../shared/format";
import { LengthField } from "../../shared/LengthField";
import { NumberField } from "../../shared/NumberField";
import { OrderedList } from "../../shared/OrderedList";
import { change, fittings as fittingsAt } from "../at";
import { useBench } from "../benchStore";
import type { OpenPiece } from "../usePiece";

type Kind = Fitting["kind"];

const KINDS: { [K in Kind]: { name: string; purpose: string } } = {
  eyelet: { name: "Eyelet", purpose: "to hang it by" },
  foot: { name: "Foot", purpose: "makes it stand" },
  tabs: { name: "Tabs", purpose: "slide into a holder" },
  socket: { name: "Socket ring", purpose: "for a lamp, in a tube or globe" },
};

function figureOf(fitting: Fitting): string {
  if (fitting.kind === "eyelet") return `${mm(fitting.hole.mm)} mm hole`;
  if (fitting.kind === "foot") return `${mm(fitting.front.mm + fitting.back.mm)} mm deep`;
  if (fitting.kind === "tabs") return `${mm(fitting.slot.mm - fitting.clearance.mm)} mm thick`;
  return `${mm(fitting.lamp.mm)} mm lamp`;
}

interface Props {
  recipe: Recipe;
  figures: Figures | undefined;
  edit: OpenPiece["edit"];
}

/** What makes the piece usable: eyelets, feet, tabs, a socket for a lamp. */
export function FittingList({ recipe, figures, edit }: Props) {
  const { fitting: open, chooseFitting } = useBench();
  const fittings = fittingsAt.read(recipe);
  const setList = (next: (list: Fitting[]) => Fitting[], label: string, resting: boolean) =>
    edit(change(fittingsAt, next), label, resting);
  const refused = new Map<string, ErrorDetail>(
    figures?.form.remarks?.filter((remark) => remark.refused).map(({ entry_id, error }) => [entry_id, error]),
  );

  function add(kind: Kind) {
    const fitting = { ...FRESH.fittings[kind], id: newId("fitting") } as Fitting;
    setList((list) => [...list, fitting], `add ${KINDS[kind].name.toLowerCase()}`, true);
    chooseFitting(fitting.id);
  }

  return (
    <section className="build-up" aria-label="Fittings">
      <div className="ordered-head">
        <h3>Fittings</h3>
        <Dropdown align="end">
          <Dropdown.Toggle size="sm" variant="plain" id="add-fitting">
            Add
          </Dropdown.Toggle>
          <Dropdown.Menu className="adding-menu">
            {(Object.keys(KINDS) as Kind[]).map((kind) => (
              <Dropdown.Item key={kind} as="button" type="button" onClick={() => add(kind)}>
                <strong>{KINDS[kind].name}</strong>
                <span className="quiet"> {KINDS[kind].purpose}</span>
              </Dropdown.Item>
            ))}
          </Dropdown.Menu>
        </Dropdown>
      </div>
      {fittings.length === 0 && <p className="field-help">None yet. A rim is a frame in the build-up at Heights.</p>}
      <OrderedList
        items={fittings}
        what="fittings"
        words={(fitting) => ({
          name: fitting.name || KINDS[fitting.kind].name,
          figure: figureOf(fitting),
          failure: refused.get(fitting.id),
        })}
        open={open}
        choose={(fitting) => chooseFitting(fitting?.id)}
        set={(next, label) => setList(next, label, true)}
        copyOf={(fitting) => ({ ...fitting, id: newId("fitting") })}
        rename={(fitting, name) => ({ ...fitting, name })}
      >
        {(fitting) => (
          <FittingFields
            fitting={fitting}
            set={(part, resting = true) =>
              setList(
                (now) => now.map((old) => (old.id === fitting.id ? ({ ...old, ...part } as Fitting) : old)),
                KINDS[fitting.kind].name.toLowerCase(),
                resting,
              )
            }
          />
        )}
      </OrderedList>
    </section>
  );
}

function FittingFields({ fitting, set }: { fitting: Fitting; set: (part: object, resting?: boolean) => void }) {
  switch (fitting.kind) {
    case "eyelet":
      return (
        <>
          <LengthField label="Hole" value={fitting.hole} range={[1, 30]} step={0.5} slider onChange={(hole, r) => set({ hole }, r)} />
          <LengthField label="Band around it" value={fitting.band} range={[0.8, 12]} step={0.1} onChange={(band, r) => set({ band }, r)} />
          <LengthField label="Thickness" value={fitting.thick} range={[0.6, 10]} step={0.1} onChange={(thick, r) => set({ thick }, r)} />
          <NumberField label="Along the edge" value={fitting.across} range={[0, 1]} step={0.05} onChange={(across, r) => set({ across }, r)} />
        </>
      );
    case "foot":
      return (
        <>
          <NumberField label="Share of the width" value={fitting.wide} range={[0.1, 1]} step={0.05} onChange={(wide, r) => set({ wide }, r)} />
          <LengthField label="To the front" value={fitting.front} range={[1, 80]} step={1} slider onChange={(front, r) => set({ front }, r)} />
          <LengthField label="To the back" value={fitting.back} range={[1, 80]} step={1} slider onChange={(back, r) => set({ back }, r)} />
          <LengthField label="Thickness" value={fitting.thick} range={[0.6, 10]} step={0.1} onChange={(thick, r) => set({ thick }, r)} />
        </>
      );
    case "tabs":
      return (
        <>
          <LengthField label="Stand out by" value={fitting.wide} range={[1, 20]} step={0.5} slider onChange={(wide, r) => set({ wide }, r)} />
          <LengthField label="Slot of the holder" value={fitting.slot} range={[0.6, 10]} step={0.1} onChange={(slot, r) => set({ slot }, r)} />
          <LengthField label="Clearance" value={fitting.clearance} range={[0, 2]} step={0.05} help="Between tab and slot, in all." onChange={(clearance, r) => set({ clearance }, r)} />
        </>
      );
    case "socket":
      return (
        <>
          <LengthField label="Lamp socket" value={fitting.lamp} range={[5, 120]} step={0.5} slider onChange={(lamp, r) => set({ lamp }, r)} />
          <LengthField label="Clearance" value={fitting.clearance} range={[0, 3]} step={0.1} onChange={(clearance, r) => set({ clearance }, r)} />
          <LengthField label="Thickness" value={fitting.thick} range={[0.6, 10]} step={0.1} onChange={(thick, r) => set({ thick }, r)} />
        </>
      );
  }
}

import { Dropdown } from "react-bootstrap";
import type { Correction, CorrectionKind, ErrorDetail, Piece } from "../../api/client";
import { OrderedList } from "../../shared/OrderedList";
import { corrections } from "../at";
import { CorrectionEditor, type EditorProps } from "./CorrectionEditor";
import { copyOf, figureOf, freshCorrection, GROUPS, KINDS } from "./kinds";
import { type Tool, usePictureStore } from "./pictureStore";

interface Props extends Omit<EditorProps, "step" | "change" | "index"> {
  piece: Piece;
  failures: Map<number, ErrorDetail>;
  set: (change: (list: Correction[]) => Correction[], label: string, resting: boolean) => void;
}

/** The tool a correction starts with. */
const FIRST_TOOL: Partial<Record<CorrectionKind, Tool>> = {
  remove: "paint",
  brush: "paint",
  fill: "pick",
};

/** The ordered corrections of the picture. */
export function CorrectionList({ piece, recipe, failures, set }: Props) {
  const { chosen, choose } = usePictureStore();
  const list = corrections.read(recipe);

  function add(kind: CorrectionKind) {
    const step = freshCorrection(kind, piece);
    set((now) => [...now, step], `add ${KINDS[kind].name.toLowerCase()}`, true);
    choose(step.id, FIRST_TOOL[kind]);
  }

  return (
    <section className="corrections" aria-label="Corrections">
      <div className="ordered-head">
        <h3>Corrections</h3>
        <Dropdown align="end">
          <Dropdown.Toggle size="sm" variant="plain" id="add-correction">
            Add
          </Dropdown.Toggle>
          <Dropdown.Menu className="adding-menu">
            {GROUPS.map(([group, kinds]) => (
              <div key={group} role="group" aria-label={group}>
                <Dropdown.Header role="presentation">{group}</Dropdown.Header>
                {kinds.map((kind) => (
                  <Dropdown.Item key={kind} as="button" type="button" onClick={() => add(kind)}>
                    <strong>{KINDS[kind].name}</strong>
                    <span className="quiet"> {KINDS[kind].purpose}</span>
                  </Dropdown.Item>
                ))}
              </div>
            ))}
          </Dropdown.Menu>
        </Dropdown>
      </div>
      {list.length === 0 && (
        <p className="field-help">None yet. The picture brought in is never changed itself.</p>
      )}
      <OrderedList
        items={list}
        what="corrections"
        words={(step, index) => ({ name: step.name || KINDS[step.kind].name, figure: figureOf(step), failure: failures.get(index) })}
        open={chosen}
        choose={(step) => choose(step?.id, step && FIRST_TOOL[step.kind])}
        set={(change, label) => set(change, label, true)}
        copyOf={copyOf}
        rename={(step, name) => ({ ...step, name })}
      >
        {(step, index) => (
          <CorrectionEditor
            step={step}
            index={index}
            recipe={recipe}
            change={(part, resting) =>
              set(
                (now) => now.map((old) => (old.id === step.id ? ({ ...old, ...part } as Correction) : old)),
                KINDS[step.kind].name.toLowerCase(),
                resting,
              )
            }
          />
        )}
      </OrderedList>
    </section>
  );
}

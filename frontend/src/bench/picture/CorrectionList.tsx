import { type DragEvent, useState } from "react";
import { Dropdown, Form } from "react-bootstrap";
import type { Correction, CorrectionKind, ErrorDetail, Piece } from "../../api/client";
import { MoreDots } from "../../shared/MoreDots";
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

/** The ordered corrections: opened, switched, moved, copied, taken away. */
export function CorrectionList({ piece, recipe, failures, set }: Props) {
  const { chosen, choose } = usePictureStore();
  const [dragged, setDragged] = useState<number>();
  const list = recipe.picture.corrections;

  function add(kind: CorrectionKind) {
    const step = freshCorrection(kind, piece);
    set((now) => [...now, step], `add ${KINDS[kind].name.toLowerCase()}`, true);
    choose(step.id, FIRST_TOOL[kind]);
  }
  const move = (from: number, to: number) => {
    if (to < 0 || to >= list.length || from === to) return;
    set(
      (now) => {
        const next = [...now];
        const [step] = next.splice(from, 1);
        next.splice(to, 0, step);
        return next;
      },
      "order of corrections",
      true,
    );
  };

  return (
    <section className="corrections" aria-label="Corrections">
      <div className="corrections-head">
        <h3>Corrections</h3>
        <Dropdown align="end">
          <Dropdown.Toggle size="sm" variant="plain" id="add-correction">
            Add
          </Dropdown.Toggle>
          <Dropdown.Menu className="correction-menu">
            {GROUPS.map(([group, kinds]) => (
              <div key={group} role="group" aria-label={group}>
                <Dropdown.Header>{group}</Dropdown.Header>
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
      <ol>
        {list.map((step, index) => {
          const open = step.id === chosen;
          const failure = failures.get(index);
          const name = KINDS[step.kind].name;
          const drag = {
            onDragOver: (event: DragEvent) => dragged !== undefined && event.preventDefault(),
            onDrop: (event: DragEvent) => {
              event.preventDefault();
              if (dragged !== undefined) move(dragged, index);
              setDragged(undefined);
            },
          };
          return (
            <li key={step.id || index} className={`correction ${open ? "open" : ""}`} aria-label={name} {...drag}>
              <div
                className="correction-row"
                draggable={!open}
                onDragStart={() => setDragged(index)}
                onDragEnd={() => setDragged(undefined)}
              >
                <Form.Check
                  type="checkbox"
                  checked={step.enabled}
                  aria-label={`${name}, on`}
                  onChange={(event) => {
                    const enabled = event.target.checked;
                    set(
                      (now) => now.map((old) => (old.id === step.id ? { ...old, enabled } : old)),
                      `${name.toLowerCase()} ${enabled ? "on" : "off"}`,
                      true,
                    );
                  }}
                />
                <button
                  type="button"
                  className="correction-open"
                  aria-expanded={open}
                  onClick={() => choose(open ? undefined : step.id, FIRST_TOOL[step.kind])}
                  onKeyDown={(event) => {
                    if (!event.altKey) return;
                    if (event.key === "ArrowUp") move(index, index - 1);
                    if (event.key === "ArrowDown") move(index, index + 1);
                  }}
                >
                  <span className={step.enabled ? "" : "quiet"}>{name}</span>
                  <span className="mono quiet">{figureOf(step)}</span>
                </button>
                <Dropdown align="end">
                  <Dropdown.Toggle variant="link" className="correction-more" aria-label={`More for ${name}`}>
                    <MoreDots size={14} />
                  </Dropdown.Toggle>
                  <Dropdown.Menu>
                    <Dropdown.Item as="button" type="button" disabled={index === 0} onClick={() => move(index, index - 1)}>
                      Move up
                    </Dropdown.Item>
                    <Dropdown.Item
                      as="button"
                      type="button"
                      disabled={index === list.length - 1}
                      onClick={() => move(index, index + 1)}
                    >
                      Move down
                    </Dropdown.Item>
                    <Dropdown.Item
                      as="button"
                      type="button"
                      onClick={() =>
                        set(
                          (now) => now.flatMap((old) => (old.id === step.id ? [old, copyOf(old)] : [old])),
                          `copy ${name.toLowerCase()}`,
                          true,
                        )
                      }
                    >
                      Copy
                    </Dropdown.Item>
                    <Dropdown.Item
                      as="button"
                      type="button"
                      onClick={() =>
                        set((now) => now.filter((old) => old.id !== step.id), `take away ${name.toLowerCase()}`, true)
                      }
                    >
                      Take away
                    </Dropdown.Item>
                  </Dropdown.Menu>
                </Dropdown>
              </div>
              {failure && step.enabled && (
                <p className="field-error" role="alert">
                  Not applied: {failure.why}. {failure.remedy}.
                </p>
              )}
              {open && (
                <div className="correction-editor">
                  <CorrectionEditor
                    step={step}
                    index={index}
                    recipe={recipe}
                    change={(part, resting) =>
                      set(
                        (now) => now.map((old) => (old.id === step.id ? ({ ...old, ...part } as Correction) : old)),
                        name.toLowerCase(),
                        resting,
                      )
                    }
                  />
                </div>
              )}
            </li>
          );
        })}
      </ol>
    </section>
  );
}

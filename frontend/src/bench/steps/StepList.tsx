import type { ReactNode } from "react";
import { newId } from "../../api/fresh";
import type { Recipe } from "../../api/client";
import { AddingMenu } from "../../shared/AddingMenu";
import { OrderedList } from "../../shared/OrderedList";
import { type At, change } from "../at";
import { usePieceStore } from "../pieceStore";
import type { OpenPiece } from "../usePiece";
import { kindOf, type Kinds, newStep, type Remark, type Step, type StepKind, titleOf, wordOf } from "./kinds";

interface Props<S extends Step, C> {
  title: string;
  /** How an undo step calls the whole list. */
  what: string;
  /** Of the ids of its steps, and of the list where the bench keeps which one is open. */
  one: string;
  list: string;
  kinds: Kinds<S, C>;
  /** A fresh step of each kind, as the core makes it. */
  fresh: Record<string, object>;
  place: At<S[]>;
  recipe: Recipe;
  context: C;
  /** What is wrong with steps, by their ids. */
  remarks: Map<string, Remark>;
  edit: OpenPiece["edit"];
  empty?: string;
  /** A small drawing before the name of each. */
  mark?: (step: S) => ReactNode;
  /** What is offered instead of one of each kind. */
  adder?: ReactNode;
  /** The topmost comes first, and so does what is added. */
  topFirst?: boolean;
}

/** Add, open, switch, move, rename, copy and take away steps of any list of the recipe. */
export function StepList<S extends Step, C>(props: Props<S, C>) {
  const { title, what, one, list, kinds, fresh, place, recipe, context, remarks, edit, empty, mark, adder, topFirst } = props;
  const { chosen, choose } = usePieceStore();
  const inOrder = (steps: S[]) => (topFirst ? steps.toReversed() : steps);
  const items = inOrder(place.read(recipe));
  const set = (next: (now: S[]) => S[], label: string, resting = true) =>
    edit(
      change(place, (now) => inOrder(next(inOrder(now)))),
      label,
      resting,
    );
  const all = Object.entries(kinds) as [string, StepKind<S, C>][];
  const addable = all.filter(([, { only }]) => !only);

  function add(name: string, kind: StepKind<S, C>) {
    const step = newStep(kind, fresh[name], context, one);
    set((now) => (topFirst ? [step, ...now] : [...now, step]), `add ${wordOf(kind, step)}`);
    choose(list, step.id, kind.firstTool);
  }

  return (
    <section className="step-list" aria-label={title}>
      <div className="ordered-head">
        <h3>{title}</h3>
        {adder ?? (
          <AddingMenu
            name="Add"
            id={`add-${one}`}
            title={title}
            offers={addable.map(([name, kind]) => {
              const missing = kind.missing?.(context);
              const { purpose, also, group } = kind;
              return { id: name, name: kind.name, purpose: missing ?? purpose, also, group, disabled: missing !== undefined, onChoose: () => add(name, kind) };
            })}
          />
        )}
      </div>
      {items.length === 0 && empty && <p className="field-help">{empty}</p>}
      <OrderedList
        items={items}
        what={what}
        words={(step) => {
          const kind = kindOf(kinds, step);
          const remark = remarks.get(step.id);
          return {
            name: titleOf(kind, step),
            figure: kind.figure(step, context),
            mark: mark?.(step),
            fixed: kind.only,
            failure: remark?.refused ? remark.error : undefined,
            caution: remark && !remark.refused ? remark.error : undefined,
          };
        }}
        open={chosen[list]}
        choose={(step) => choose(list, step?.id, step && kindOf(kinds, step).firstTool)}
        set={set}
        copyOf={(step) => ({ ...step, id: newId(one) })}
        rename={(step, name) => ({ ...step, name })}
      >
        {(step, index) => {
          const kind = kindOf(kinds, step);
          return (
            <kind.Editor
              {...context}
              step={step}
              index={index}
              set={(part, resting = true) => set((now) => now.map((old) => (old.id === step.id ? { ...old, ...part } : old)), wordOf(kind, step), resting)}
            />
          );
        }}
      </OrderedList>
    </section>
  );
}

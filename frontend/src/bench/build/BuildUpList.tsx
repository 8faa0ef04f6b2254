import { Dropdown } from "react-bootstrap";
import type { Entry, ErrorDetail, Figures, Recipe } from "../../api/client";
import { newId } from "../../api/fresh";
import { OrderedList } from "../../shared/OrderedList";
import { art, buildUp, change } from "../at";
import { useBench } from "../benchStore";
import type { OpenPiece } from "../usePiece";
import { ADDABLE, entryFigure, type EntryKind, entryName, entryWord, freshEntry } from "./entries";
import { EntryEditor, useMotifs } from "./EntryEditor";
import { PictureEntryEditor } from "./PictureEntryEditor";
import { RuleMark } from "./RuleMark";

interface Props {
  recipe: Recipe;
  figures: Figures | undefined;
  edit: OpenPiece["edit"];
}

/** The ordered entries that make the heights, the topmost first. */
export function BuildUpList({ recipe, figures, edit }: Props) {
  const { entry: open, chooseEntry } = useBench();
  const motifs = useMotifs();
  const { backing } = art.read(recipe);
  const topFirst = buildUp.read(recipe).toReversed();
  const setList = (next: (list: Entry[]) => Entry[], label: string, resting: boolean) =>
    edit(change(buildUp, (now) => next(now.toReversed()).toReversed()), label, resting);
  const remarks = new Map<string, { error: ErrorDetail; refused: boolean }>(
    figures?.heights.remarks?.map(({ entry_id, error, refused }) => [entry_id, { error, refused }]),
  );

  function add(kind: Exclude<EntryKind, "picture">) {
    const entry = freshEntry(kind, motifs?.[0]?.picture.sha256 ?? "");
    setList((list) => [entry, ...list], `add ${entryWord(entry)}`, true);
    chooseEntry(entry.id);
  }

  return (
    <section className="build-up" aria-label="Build-up">
      <div className="ordered-head">
        <h3>Build-up</h3>
        <Dropdown align="end">
          <Dropdown.Toggle size="sm" variant="plain" id="add-entry">
            Add
          </Dropdown.Toggle>
          <Dropdown.Menu className="adding-menu">
            {ADDABLE.map(([kind, name, purpose]) => (
              <Dropdown.Item
                key={kind}
                as="button"
                type="button"
                disabled={kind === "motif" && !motifs?.length}
                onClick={() => add(kind)}
              >
                <strong>{name}</strong>
                <span className="quiet"> {kind === "motif" && !motifs?.length ? "there are none yet" : purpose}</span>
              </Dropdown.Item>
            ))}
          </Dropdown.Menu>
        </Dropdown>
      </div>
      <OrderedList
        items={topFirst}
        what="the build-up"
        words={(entry) => {
          const remark = remarks.get(entry.id);
          return {
            name: entryName(entry),
            figure: entryFigure(entry, backing),
            mark: <RuleMark entry={entry} />,
            fixed: entry.kind === "picture",
            failure: remark?.refused ? remark.error : undefined,
            caution: remark && !remark.refused ? remark.error : undefined,
          };
        }}
        open={open}
        choose={(entry) => chooseEntry(entry?.id)}
        set={(next, label) => setList(next, label, true)}
        copyOf={(entry) => ({ ...entry, id: newId("entry") })}
        rename={(entry, name) => ({ ...entry, name })}
      >
        {(entry) =>
          entry.kind === "picture" ? (
            <PictureEntryEditor recipe={recipe} edit={edit} />
          ) : (
            <EntryEditor
              entry={entry}
              set={(part, resting = true) =>
                setList(
                  (now) => now.map((old) => (old.id === entry.id ? ({ ...old, ...part } as Entry) : old)),
                  entryWord(entry),
                  resting,
                )
              }
            />
          )
        }
      </OrderedList>
    </section>
  );
}

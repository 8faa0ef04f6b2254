import { closestCenter, DndContext, type DragEndEvent, PointerSensor, useSensor, useSensors } from "@dnd-kit/core";
import { restrictToParentElement, restrictToVerticalAxis } from "@dnd-kit/modifiers";
import { SortableContext, useSortable, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { type ReactNode, useRef, useState } from "react";
import { Dropdown, Form } from "react-bootstrap";
import type { ErrorDetail } from "../api/client";
import { afterwards } from "./afterwards";
import { MoreDots } from "./MoreDots";
import { NameField } from "./NameField";

export interface ListItem {
  id: string;
  enabled: boolean;
}

interface RowWords {
  name: string;
  figure: string;
  failure?: ErrorDetail;
  /** What is doubtful about one that is applied. */
  caution?: ErrorDetail;
  /** A small drawing before the name. */
  mark?: ReactNode;
  /** Whether it may be copied and taken away. */
  fixed?: boolean;
}

interface Props<T extends ListItem> {
  items: T[];
  words: (item: T, index: number) => RowWords;
  open: string | undefined;
  choose: (item: T | undefined) => void;
  set: (change: (list: T[]) => T[], label: string) => void;
  copyOf: (item: T) => T;
  rename?: (item: T, name: string) => T;
  /** How an undo step calls the whole list. */
  what: string;
  children: (item: T, index: number) => ReactNode;
}

/** Steps in order: opened, switched, moved, renamed, copied, taken away. */
export function OrderedList<T extends ListItem>(props: Props<T>) {
  const { items, set, what } = props;
  // A press that does not move stays a click on what lies under it.
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 4 } }));
  const move = (id: string, to: (at: number) => number) =>
    set((now) => {
      const at = now.findIndex((item) => item.id === id);
      const place = to(at);
      if (at < 0 || place < 0 || place >= now.length) return now;
      const next = now.filter((item) => item.id !== id);
      next.splice(place, 0, now[at]);
      return next;
    }, `order of ${what}`);
  const dropped = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    const place = items.findIndex((item) => item.id === over.id);
    move(String(active.id), () => place);
  };
  return (
    <DndContext sensors={sensors} collisionDetection={closestCenter} modifiers={[restrictToVerticalAxis, restrictToParentElement]} onDragEnd={dropped}>
      <SortableContext items={items.map((item) => item.id)} strategy={verticalListSortingStrategy}>
        <ol className="ordered">
          {items.map((item, index) => (
            <Row key={item.id} {...props} item={item} index={index} move={move} />
          ))}
        </ol>
      </SortableContext>
    </DndContext>
  );
}

interface RowProps<T extends ListItem> extends Props<T> {
  item: T;
  index: number;
  move: (id: string, to: (at: number) => number) => void;
}

function Row<T extends ListItem>({ item, index, items, words, open, choose, set, copyOf, rename, move, children }: RowProps<T>) {
  const { name, figure, failure, caution, mark, fixed } = words(item, index);
  const [naming, setNaming] = useState(false);
  const row = useRef<HTMLLIElement>(null);
  const opened = item.id === open;
  const sortable = useSortable({ id: item.id, disabled: naming });
  const style = { transform: CSS.Translate.toString(sortable.transform), transition: sortable.transition };
  const change = (next: (old: T) => T, label: string) => set((now) => now.map((old) => (old.id === item.id ? next(old) : old)), label);
  const small = name.toLowerCase();
  return (
    <li
      ref={(node) => {
        row.current = node;
        sortable.setNodeRef(node);
      }}
      style={style}
      className={`ordered-item ${opened ? "open" : ""} ${sortable.isDragging ? "dragged" : ""}`}
      aria-label={name}
    >
      <div className="ordered-row" {...sortable.listeners}>
        <Form.Check
          type="checkbox"
          checked={item.enabled}
          aria-label={`${name}, on`}
          onChange={(event) => {
            const enabled = event.target.checked;
            change((old) => ({ ...old, enabled }), `${small} ${enabled ? "on" : "off"}`);
          }}
        />
        {naming && rename ? (
          <NameField
            name={name}
            label={`Name of ${name}`}
            onDone={(typed) => {
              setNaming(false);
              afterwards(() => row.current?.querySelector<HTMLElement>(".ordered-open")?.focus());
              if (typed !== undefined && typed !== name) change((old) => rename(old, typed), `rename ${small}`);
            }}
          />
        ) : (
          <button
            type="button"
            className="ordered-open"
            aria-expanded={opened}
            onClick={() => choose(opened ? undefined : item)}
            onDoubleClick={() => rename && setNaming(true)}
            onKeyDown={(event) => {
              if (!event.altKey) return;
              if (event.key === "ArrowUp") move(item.id, (at) => at - 1);
              if (event.key === "ArrowDown") move(item.id, (at) => at + 1);
            }}
          >
            {mark}
            <span className={item.enabled ? "ordered-name" : "ordered-name quiet"}>{name}</span>
            <span className="mono quiet">{figure}</span>
          </button>
        )}
        <Dropdown align="end">
          <Dropdown.Toggle variant="link" className="ordered-more" aria-label={`More for ${name}`}>
            <MoreDots size={14} />
          </Dropdown.Toggle>
          <Dropdown.Menu>
            <MenuItem off={index === 0} onClick={() => move(item.id, (at) => at - 1)}>
              Move up
            </MenuItem>
            <MenuItem off={index === items.length - 1} onClick={() => move(item.id, (at) => at + 1)}>
              Move down
            </MenuItem>
            {rename && <MenuItem onClick={() => setNaming(true)}>Rename</MenuItem>}
            <MenuItem off={fixed} onClick={() => set((now) => now.flatMap((old) => (old.id === item.id ? [old, copyOf(old)] : [old])), `copy ${small}`)}>
              Copy
            </MenuItem>
            <MenuItem
              off={fixed}
              onClick={() => {
                const list = row.current?.parentElement;
                set((now) => now.filter((old) => old.id !== item.id), `take away ${small}`);
                afterwards(() => focusIn(list, index));
              }}
            >
              Take away
            </MenuItem>
          </Dropdown.Menu>
        </Dropdown>
      </div>
      {failure && item.enabled && (
        <p className="field-error" role="alert">
          Not applied: {failure.why}. {failure.remedy}.
        </p>
      )}
      {caution && item.enabled && (
        <p className="field-caution">
          {caution.why[0].toUpperCase() + caution.why.slice(1)}. {caution.remedy}.
        </p>
      )}
      {opened && <div className="ordered-editor">{children(item, index)}</div>}
    </li>
  );
}

/** After a row is gone: the one in its place, the last one, or what adds another. */
function focusIn(list: HTMLElement | null | undefined, index: number) {
  const rows = list?.querySelectorAll<HTMLElement>(".ordered-open") ?? [];
  const next = rows[Math.min(index, rows.length - 1)] ?? list?.parentElement?.querySelector<HTMLElement>(".dropdown-toggle");
  next?.focus();
}

function MenuItem({ off = false, onClick, children }: { off?: boolean; onClick: () => void; children: ReactNode }) {
  return (
    <Dropdown.Item as="button" type="button" disabled={off} onClick={onClick}>
      {children}
    </Dropdown.Item>
  );
}

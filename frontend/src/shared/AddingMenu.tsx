import { type KeyboardEvent, useRef, useState } from "react";
import { Dropdown, Form } from "react-bootstrap";

export interface Offer {
  id: string;
  name: string;
  /** What it is for, or why it cannot be added. */
  purpose: string;
  /** What the trade calls it besides, to be found by. */
  also?: string;
  group?: string;
  disabled?: boolean;
  onChoose: () => void;
}

interface Props {
  /** What the button says. */
  name: string;
  id: string;
  offers: Offer[];
  /** What a group without a name is called. */
  title: string;
  onOpen?: () => void;
}

/** Whether every word that is typed begins a word of what is offered. */
export function isMeant({ name, purpose, also = "" }: Pick<Offer, "name" | "purpose" | "also">, typed: string): boolean {
  const words = `${name} ${also} ${purpose}`.toLowerCase().split(/[^\p{L}\p{N}-]+/u);
  return typed
    .toLowerCase()
    .split(/\s+/)
    .filter(Boolean)
    .every((part) => words.some((word) => word.startsWith(part)));
}

/** What can be added, by groups, and a field that finds it by our words or those of the trade. */
export function AddingMenu({ name, id, offers, title, onOpen }: Props) {
  const [open, setOpen] = useState(false);
  const [typed, setTyped] = useState("");
  const menu = useRef<HTMLDivElement>(null);
  const found = offers.filter((offer) => isMeant(offer, typed));
  const groups = [...new Set(found.map(({ group }) => group))];
  const first = found.find(({ disabled }) => !disabled);
  function hear(event: KeyboardEvent) {
    if (event.key === "ArrowDown") menu.current?.querySelector<HTMLElement>(".dropdown-item:not(:disabled)")?.focus();
    else if (event.key === "Enter" && typed && first) {
      setOpen(false);
      first.onChoose();
    } else return;
    event.preventDefault();
  }
  return (
    <Dropdown
      align="end"
      show={open}
      onToggle={(now) => {
        setOpen(now);
        setTyped("");
        if (now) onOpen?.();
      }}
    >
      <Dropdown.Toggle size="sm" variant="plain" id={id}>
        {name}
      </Dropdown.Toggle>
      <Dropdown.Menu ref={menu} className="adding-menu">
        {open && (
          <Form.Control
            size="sm"
            className="adding-find"
            autoComplete="off"
            aria-label="Find what to add"
            placeholder="find"
            autoFocus
            value={typed}
            onChange={(event) => setTyped(event.target.value)}
            onKeyDown={hear}
          />
        )}
        {groups.map((group) => (
          <div key={group ?? ""} role="group" aria-label={group ?? title}>
            {group && <Dropdown.Header role="presentation">{group}</Dropdown.Header>}
            {found
              .filter((offer) => offer.group === group)
              .map((offer) => (
                <Dropdown.Item key={offer.id} as="button" type="button" disabled={offer.disabled} onClick={offer.onChoose}>
                  <strong>{offer.name}</strong>
                  <span className="quiet"> {offer.purpose}</span>
                  {typed && offer.also && <span className="also">{offer.also}</span>}
                </Dropdown.Item>
              ))}
          </div>
        ))}
        {found.length === 0 && <p className="field-help px-3">Nothing is called so.</p>}
      </Dropdown.Menu>
    </Dropdown>
  );
}

import { useMutation } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { Modal } from "react-bootstrap";
import type { Schemas } from "../api/client";
import { ArrivingPicture } from "./ArrivingPicture";
import { Button } from "./Button";
import { NumberField } from "./NumberField";
import { showError } from "./notices";
import { SelectField } from "./SelectField";
import { Switch } from "./Switch";
import { Sheet } from "./Sheet";

export type Dials = Schemas["PatternIn"];
export type PatternKind = "craters" | "waves" | "weave" | "scales" | "bark" | "gears" | "rosettes" | "stars" | "knots";

const KINDS: PatternKind[] = ["craters", "waves", "weave", "scales", "bark", "gears", "rosettes", "stars", "knots"];
const PIXELS = [512, 1024, 2048, 4096] as const;
const FRESH: Dials = { pixels: 1024, seed: 1, across: 6, uneven: 0.4, soft: 0.5, tile: true };

interface Props {
  /** What is done with it, as the button says it. */
  action: string;
  make: (kind: PatternKind, dials: Dials) => Promise<unknown>;
  onClose: () => void;
}

const address = (kind: PatternKind, dials: Dials, pixels: number) =>
  `/api/patterns/${kind}.png?${new URLSearchParams(Object.entries({ ...dials, pixels }).map(([name, value]) => [name, String(value)]))}`;

/** A picture of heights made from a few dials and a seed. */
export function PatternSheet({ action, make, onClose }: Props) {
  const [kind, setKind] = useState<PatternKind>("craters");
  const [dials, setDials] = useState(FRESH);
  const seen = useDeferredValue(dials);
  const set = (part: Partial<Dials>) => setDials((now) => ({ ...now, ...part }));
  const doing = useMutation({ mutationFn: () => make(kind, dials), onSuccess: onClose, onError: showError });
  return (
    <Sheet label="Make a picture" large onClose={onClose}>
      <Modal.Header closeButton>
        <Modal.Title as="h2">Make a picture</Modal.Title>
      </Modal.Header>
      <Modal.Body className="pattern-sheet">
        <div>
          <ArrivingPicture className="pattern-seen" src={address(kind, seen, 384)} alt={`${kind}, as the dials have it`} word={`making ${kind}`} />
          <div className="field-help">White stands high. 16-bit, the same again from the same numbers.</div>
        </div>
        <div>
          <div className="pattern-kinds" role="group" aria-label="Pattern">
            {KINDS.map((one) => (
              <button key={one} type="button" className="pattern-kind" aria-pressed={one === kind} onClick={() => setKind(one)}>
                <img src={address(one, { ...FRESH, across: 3 }, 96)} alt="" loading="lazy" />
                {one}
              </button>
            ))}
          </div>
          <NumberField label="Side by side" value={dials.across} range={[1, 40]} step={1} onChange={(across) => set({ across: Math.round(across) })} />
          <NumberField label="Uneven" value={dials.uneven} range={[0, 1]} step={0.05} onChange={(uneven) => set({ uneven })} />
          <NumberField label="Soft" value={dials.soft} range={[0, 1]} step={0.05} onChange={(soft) => set({ soft })} />
          <NumberField label="Seed" value={dials.seed} range={[0, 100_000]} step={1} slider={false} onChange={(seed) => set({ seed: Math.round(seed) })} />
          <SelectField
            label="Pixels"
            value={String(dials.pixels)}
            options={PIXELS.map((n) => [String(n), `${n} × ${n}`] as const)}
            onChange={(pixels) => set({ pixels: Number(pixels) })}
          />
          <Switch label="Without a seam" value={dials.tile} onChange={(tile) => set({ tile })} />
        </div>
      </Modal.Body>
      <Modal.Footer>
        <Button variant="plain" onClick={() => set({ seed: Math.floor(Math.random() * 100_000) })}>
          Another seed
        </Button>
        <Button variant="primary" disabled={doing.isPending} onClick={() => doing.mutate()}>
          {action}
        </Button>
      </Modal.Footer>
    </Sheet>
  );
}

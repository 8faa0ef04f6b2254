import { LengthField } from "../shared/LengthField";
import { type SectionLine, useBench } from "./benchStore";

interface Props {
  /** Width and height of the picture, mm. */
  size: [number, number];
}

const ENDS = [
  ["start", "From"],
  ["end", "To"],
] as const;

/** The section line in numbers: mm from the lower left corner, as on the rulers. */
export function SectionNumbers({ size }: Props) {
  const { line, setLine } = useBench();
  const set = (which: keyof SectionLine, axis: 0 | 1, mm: number) => {
    const spot: [number, number] = [...line[which]];
    const share = Math.min(1, Math.max(0, mm / size[axis]));
    spot[axis] = axis === 0 ? share : 1 - share;
    const next = { ...line, [which]: spot };
    if (Math.hypot(next.start[0] - next.end[0], next.start[1] - next.end[1]) > 0.01) setLine(next);
  };
  return (
    <div className="section-numbers" role="group" aria-label="Section line in numbers">
      {ENDS.flatMap(([which, word]) =>
        ([0, 1] as const).map((axis) => (
          <LengthField
            key={`${which} ${axis}`}
            label={`${word}, ${axis === 0 ? "across" : "up"}`}
            value={{ mm: Number(((axis === 0 ? line[which][0] : 1 - line[which][1]) * size[axis]).toFixed(2)) }}
            range={[0, size[axis]]}
            limits={[0, size[axis]]}
            step={1}
            onChange={(value) => set(which, axis, value.mm)}
          />
        )),
      )}
    </div>
  );
}

import { useEffect, useRef } from "react";
import { FRESH } from "../../../api/fresh";
import { type Picked, usePieceStore } from "../../pieceStore";
import { Changed } from "./Changed";
import { type Editing, type Finishing } from "./finishing";
import { PointButton } from "../../PointButton";

function LayEditor(props: Editing<"lay">) {
  const { step, set, recipe, index, done } = props;
  const { pick, picking } = usePieceStore();
  const take = ({ normal }: Picked) => set({ towards: backwards(normal, step.towards) });
  // Where a face looks is known before what comes after turns it elsewhere.
  const last = index === recipe.finish.length - 1 && done.has(step.id);
  const on = picking === step.id;
  // One that was just added waits for its face at once.
  const waits = useRef(step.towards.join() === FRESH.finish.lay.towards.join());
  useEffect(() => {
    if (!last || !waits.current) return;
    waits.current = false;
    pick(step.id, take);
  });
  return (
    <>
      <p className="field-help">The face that is pointed at comes down on the table.</p>
      <PointButton
        name="Point at the face"
        how="The face of the piece that is pointed at comes down."
        disabled={!last}
        on={on}
        onChange={(now) => (now ? pick(step.id, take) : pick(undefined))}
      />
      {!last && <p className="field-help">Possible while this is the last step, and switched on.</p>}
      <Changed {...props} />
    </>
  );
}

type Place = [number, number, number];

/** The way a face looked before it was turned so that `towards` looks down. */
function backwards(normal: Place, towards: Place): Place {
  const long = Math.hypot(...towards);
  const [a, b, c] = towards.map((side) => side / long);
  // About the axis (b, -a, 0): see the core, which turns the same way.
  const cos = -c;
  const [x, y, z] = normal;
  if (cos < -1 + 1e-9) return [x, -y, -z];
  const [u, v] = [-b, a]; // towards × down
  const k = 1 / (1 + cos);
  // The transposed of I + S + S² k, with S of the axis (u, v, 0).
  const found: Place = [
    x * (1 - v * v * k) + y * u * v * k - z * v,
    x * u * v * k + y * (1 - u * u * k) + z * u,
    x * v - y * u + z * (1 - (u * u + v * v) * k),
  ];
  return found.map((side) => Number(side.toFixed(6))) as Place;
}

export const lay: Finishing<"lay"> = {
  name: "Lay on a face",
  word: "lay",
  purpose: "the face that is pointed at comes down",
  also: "orient, place on the bed",
  group: "Place",
  figure: () => "",
  Editor: LayEditor,
};

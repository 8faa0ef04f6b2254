import { OrbitControls } from "@react-three/drei";
import { Canvas, useFrame, useThree } from "@react-three/fiber";
import { useEffect, useLayoutEffect, useRef, useState } from "react";
import { type Group, type PerspectiveCamera, Sphere, Vector3 } from "three";
import type { Decoration, Figures, Recipe } from "../api/client";
import { Button } from "../shared/Button";
import { mm } from "../shared/format";
import { showError } from "../shared/notices";
import { change, decorations } from "./at";
import { drawsInSoftware, softwarePixels } from "./drawsInSoftware";
import { Stone } from "./looks/surface";
import { Lights, stands } from "./PieceScene";
import { type Trial, usePieceStore } from "./pieceStore";
import type { OpenPiece } from "./usePiece";
import { askDraft, type ShownMesh } from "./usePieceMesh";

const SOFTWARE = drawsInSoftware();
const IN_FRONT = new Vector3(0.3, -1, 0.55).normalize();
/** Around the piece in its cell, above the button. */
const ROOM = 1.2;
const ABOVE = new Vector3(0.2, -0.8, 1).normalize();

interface Props {
  trial: Trial;
  recipe: Recipe;
  figures: Figures;
  edit: OpenPiece["edit"];
}

const withOne = ({ decorationId }: Trial, decoration: Decoration) =>
  change(decorations, (now) => now.map((old) => (old.id === decorationId ? { ...decoration, id: old.id } : old)));

/** The piece with a decoration in several strengths, all turned together, to choose one from. */
export function TrialView({ trial, recipe, figures, edit }: Props) {
  const setTrial = usePieceStore((state) => state.setTrial);
  const [shown, setShown] = useState<(ShownMesh | undefined)[]>([]);
  const { variants, over } = trial;
  const rows = variants.length > 3 ? 2 : 1;
  const cols = Math.ceil(variants.length / rows);
  const standing = stands(figures);
  const first = useRef(recipe);
  useEffect(() => {
    let dropped = false;
    void (async () => {
      for (const [n, { decoration }] of variants.entries())
        try {
          const mesh = await askDraft(withOne(trial, decoration)(first.current));
          if (dropped) return;
          setShown((now) => variants.map((_, i) => (i === n ? mesh : now[i])));
        } catch (error) {
          if (!dropped) showError(error);
          return;
        }
    })();
    return () => {
      dropped = true;
    };
  }, [trial, variants]);
  function take(decoration: Decoration) {
    edit(withOne(trial, decoration), over === "depth" ? "depth" : "size", true);
    setTrial(undefined);
  }
  return (
    <section className="view piece-view" aria-label="Strength trial">
      <div className="view-bar">
        <span className="view-name">{over === "depth" ? "The same, by depth" : "The same, by width"}</span>
        <Button size="sm" variant="plain" onClick={() => setTrial(undefined)}>
          Back to the piece
        </Button>
      </div>
      <Canvas
        frameloop="demand"
        dpr={SOFTWARE ? softwarePixels(1) : [1, 2]}
        gl={{ antialias: !SOFTWARE }}
        camera={{ fov: 26, up: [0, 0, 1], near: 1, far: 5000, manual: true }}
      >
        <Lights standing={standing} />
        <SideBySide {...{ shown, rows, cols, standing }} />
      </Canvas>
      <div className="trial-cells" style={{ gridTemplate: `repeat(${rows}, 1fr) / repeat(${cols}, 1fr)` }}>
        {variants.map(({ value, decoration }, n) => (
          <div key={value}>
            {!shown[n] && <span className="trial-word">making it</span>}
            {refused(shown[n], trial) && <span className="trial-word state-wrong">{refused(shown[n], trial)}</span>}
            <Button size="sm" variant="plain" disabled={!shown[n] || Boolean(refused(shown[n], trial))} onClick={() => take(decoration)}>
              Take <span className="mono">{mm(value, 2)} mm</span>
            </Button>
          </div>
        ))}
      </div>
    </section>
  );
}

/** Why it was not laid on. */
const refused = (shown: ShownMesh | undefined, { decorationId }: Trial) =>
  shown?.figures.decorations.find(({ decoration_id }) => decoration_id === decorationId)?.error?.why;

/** Each in a cell of its own, seen by the same eye. */
function SideBySide({ shown, rows, cols, standing }: { shown: (ShownMesh | undefined)[]; rows: number; cols: number; standing: boolean }) {
  const { size, invalidate } = useThree();
  const camera = useThree((state) => state.camera) as PerspectiveCamera;
  const groups = useRef<(Group | null)[]>([]);
  const [middle, setMiddle] = useState<Vector3>();
  const placed = useRef(false);
  useEffect(() => invalidate(), [shown, invalidate]);
  useLayoutEffect(() => {
    const first = shown.find((one) => one !== undefined);
    if (!first || placed.current) return;
    placed.current = true;
    first.geometry.computeBoundingSphere();
    const ball = first.geometry.boundingSphere ?? new Sphere(new Vector3(), 50);
    const aspect = size.width / cols / (size.height / rows);
    const away = (ball.radius * ROOM) / Math.sin((camera.fov * Math.PI) / 360) / Math.min(1, aspect);
    camera.position.copy(ball.center).addScaledVector(standing ? IN_FRONT : ABOVE, away);
    camera.near = away / 50;
    camera.far = away * 20;
    camera.lookAt(ball.center);
    setMiddle(ball.center.clone());
  }, [shown, camera, size, rows, cols, standing]);
  // With a priority of its own it draws instead of the canvas.
  useFrame(({ gl, scene }) => {
    const [wide, tall] = [size.width / cols, size.height / rows];
    camera.aspect = wide / tall;
    camera.updateProjectionMatrix();
    gl.setScissorTest(true);
    for (let n = 0; n < rows * cols; n++) {
      for (const [i, group] of groups.current.entries()) if (group) group.visible = i === n;
      const [x, y] = [(n % cols) * wide, (rows - 1 - Math.floor(n / cols)) * tall];
      gl.setViewport(x, y, wide, tall);
      gl.setScissor(x, y, wide, tall);
      gl.render(scene, camera);
    }
    gl.setScissorTest(false);
  }, 1);
  return (
    <>
      {shown.map((one, n) => (
        <group
          key={n}
          ref={(group) => {
            groups.current[n] = group;
          }}
        >
          {one && <Stone shown={one} />}
        </group>
      ))}
      <OrbitControls makeDefault enableDamping={false} target={middle} />
    </>
  );
}

import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { api, type Figures, newest, type Piece, type Recipe, type Schemas, takeAs } from "../api/client";
import { mm } from "../shared/format";
import { useLast } from "../shared/useLast";
import { useRoom } from "../shared/useRoom";
import { change, finishSteps } from "./at";
import { usePieceStore } from "./pieceStore";
import { SectionCut } from "./SectionCut";
import { stopOf } from "./stops";
import type { OpenPiece } from "./usePiece";

export type Cut = Schemas["CutOut"];

interface Props {
  piece: Piece;
  recipe: Recipe;
  figures: Figures | undefined;
  resting: boolean;
  edit: OpenPiece["edit"];
}

/** What an upright plane cuts of the mesh, in mm; the plane of a trim or a split is dragged in it. */
export function BodyStrip({ recipe, figures, resting, edit }: Props) {
  const frame = useRef<HTMLElement>(null);
  const room = useRoom(frame);
  const stop = usePieceStore((state) => state.stop);
  const chosen = usePieceStore((state) => state.chosen.finish);
  const open = finishSteps.read(recipe).find((step) => step.id === chosen && step.enabled);
  const cuts = open?.kind === "trim" || open?.kind === "split" ? open : undefined;
  const trimming = stopOf(recipe, stop).id === "finish" ? cuts : undefined;
  const [turned, setTurned] = useState<"x" | "y">("x");
  // A plane that stands square to y is seen from the side only.
  const along = trimming && trimming.axis !== "z" ? trimming.axis : turned;
  const across = along === "x" ? "y" : "x";
  const [share, setShare] = useState(0.5);
  const own = "xyz".indexOf(across);
  const [low, size] = [figures?.mesh.low_mm[own] ?? 0, figures?.mesh.size_mm[own] ?? 0];
  const at = Number((low + size * share).toFixed(3));
  const query = useQuery({
    queryKey: ["cut", JSON.stringify([recipe.begins, recipe.finish, recipe.made_with.printer]), across, at, trimming?.id, resting && figures?.quality],
    enabled: figures !== undefined,
    queryFn: async ({ signal }) =>
      takeAs<Cut>(api.POST("/api/cut", { body: { recipe, across, at_mm: at, before: trimming?.id ?? null }, ...newest("cut", signal) })),
    placeholderData: keepPreviousData,
    gcTime: 20_000,
    retry: false,
  });
  const cut = useLast(query.data);
  const drag = (at: number, still: boolean) =>
    edit(
      change(finishSteps, (list) => list.map((step) => (step.id === trimming?.id ? { ...step, at: { mm: at, text: null } } : step))),
      trimming?.kind ?? "trim",
      still,
    );

  return (
    <section className="section-strip of-body" ref={frame} aria-label="Section strip">
      <div className="view-bar">
        <span className="view-name">
          Section at {across} = {mm(at, 2)} mm
          {cut?.quality === "draft" && ", draft"}
        </span>
        {cut && (
          <span className="chip mono" title="Nozzle lines and print layers of the piece's printer">
            {mm(cut.line_mm)} mm lines · {mm(cut.layer_mm)} mm layers
          </span>
        )}
        <input
          type="range"
          className="form-range strip-place"
          aria-label={`Place along ${across}`}
          aria-valuetext={`${mm(at, 2)} mm`}
          min={0}
          max={1}
          step={0.005}
          value={share}
          onChange={(event) => setShare(Number(event.target.value))}
        />
        {(["x", "y"] as const).map((axis) => (
          <button
            key={axis}
            type="button"
            className="chip"
            aria-pressed={along === axis}
            disabled={trimming !== undefined && trimming.axis !== "z"}
            onClick={() => setTurned(axis)}
          >
            along {axis}
          </button>
        ))}
      </div>
      {cut && room.width > 0 && <SectionCut cut={cut} along={along} room={room} plane={trimming} onPlane={drag} />}
    </section>
  );
}

import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { api, type Decoration, type Piece, type PieceOfHeights, type Recipe, type Schemas, take } from "../api/client";
import { FRESH } from "../api/fresh";
import { art, change, decorations } from "./at";
import { usePieceStore } from "./pieceStore";
import type { Stop } from "./stops/stop";
import type { OpenPiece } from "./usePiece";

/** Art of a decoration as if it were a piece: what the stops Picture and Heights work on. */
export interface Inner {
  piece: PieceOfHeights;
  recipe: Recipe;
  edit: OpenPiece["edit"];
}

/** What a stop that works on art is given instead. */
export const ofArt = (stop: Stop, inner: Inner | undefined) => (stop.ofArt && inner ? { ...inner, figures: undefined } : {});

/** The recipe of art alone, flat. */
export const alone = (recipe: Recipe, one: Decoration): Recipe =>
  ({ ...recipe, begins: { ...FRESH.relief, kind: "relief", art: one.art }, finish: [] }) as Recipe;

/** Whether a piece is known to be art of another: it keeps the recipe of that. */
export const isArtOf = (piece: Piece): boolean => piece.recipe.begins.kind === "body";

/** The decoration whose art is worked on: the one that is open, or the first. */
export function worked(recipe: Recipe, chosen: string | undefined): Decoration | undefined {
  if (recipe.begins.kind !== "body") return undefined;
  const list = decorations.read(recipe).filter((one): one is Decoration => one.kind === "decoration" && Boolean(one.art.picture));
  return list.find((one) => one.id === chosen) ?? list[0];
}

/** Width and height before any correction. */
function sizeOf({ art }: Decoration, { rows, cols }: Schemas["PictureOut"]) {
  if (!art.picture) return {};
  const { along, side } = art.picture;
  const [across, up] = [cols - 1, rows - 1];
  return along === "wide" ? { wide_mm: side.mm, tall_mm: (side.mm / across) * up } : { wide_mm: (side.mm / up) * across, tall_mm: side.mm };
}

/** The art of the open decoration, changed where it lies in the recipe of its body. */
export function useArtOf(piece: Piece | undefined, recipe: Recipe | undefined, edit: OpenPiece["edit"]): Inner | undefined {
  const chosen = usePieceStore((state) => state.chosen.decorations);
  const one = recipe && worked(recipe, chosen);
  const sha256 = one?.art.picture?.file.sha256 ?? "";
  const filename = one?.art.picture?.file.filename;
  const { data: picture } = useQuery({
    queryKey: ["picture", sha256],
    enabled: sha256 !== "",
    queryFn: () => take(api.GET("/api/pictures/{sha256}", { params: { path: { sha256 } } })),
    staleTime: Infinity,
  });
  const id = one?.id;
  return useMemo(() => {
    if (!piece || !recipe || !one || picture?.sha256 !== sha256) return undefined;
    return {
      piece: { ...piece, ...sizeOf(one, picture), mesh: null, picture: filename ? { ...picture, filename } : picture } as PieceOfHeights,
      recipe: alone(recipe, one),
      edit: (next, label, resting) =>
        edit(
          (whole) =>
            change(decorations, (list) =>
              list.map((old) => (old.id === id && old.kind === "decoration" ? { ...old, art: art.read(next(alone(whole, old))) } : old)),
            )(whole),
          label,
          resting,
        ),
    };
  }, [piece, recipe, one, id, picture, sha256, filename, edit]);
}

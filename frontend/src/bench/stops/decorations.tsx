import { useState } from "react";
import { useQuery } from "@tanstack/react-query";
import { api, type Decoration, type Figures, type Schemas, take, takeAs } from "../../api/client";
import { FRESH } from "../../api/fresh";
import { AddingMenu } from "../../shared/AddingMenu";
import { useChooser } from "../../shared/ChooseFile";
import { showError } from "../../shared/notices";
import { PatternSheet } from "../../shared/PatternSheet";
import { decorations as place } from "../at";
import { usePieceStore } from "../pieceStore";
import { DECORATIONS } from "../steps/decorations";
import { again, covered, laid, SOURCES } from "../steps/decorations/bring";
import { kindOf, type Remark, titleOf } from "../steps/kinds";
import { StepList } from "../steps/StepList";
import { useMotifs } from "../steps/useMotifs";
import type { PanelProps, Stop, Told, TrailProps } from "./stop";

/** Art on the body, one after the other. */
function DecorationsPanel({ piece, recipe, figures, figuresOnce, edit }: PanelProps) {
  const remarks = new Map(
    figures?.decorations.flatMap(({ decoration_id, error, doubt }): [string, Remark][] => {
      const said = error ?? doubt;
      return said ? [[decoration_id, { error: said, refused: Boolean(error) }]] : [];
    }),
  );
  return (
    <>
      <h2>Decorations</h2>
      <p className="intro">Art laid on the body, in order: as deep everywhere, and closed.</p>
      <StepList
        title="Decorations on it"
        what="decorations"
        one="decoration"
        list="decorations"
        kinds={DECORATIONS}
        fresh={{ decoration: FRESH.decoration, texture: FRESH.texture }}
        place={place}
        recipe={recipe}
        context={{ recipe, figures }}
        remarks={remarks}
        edit={edit}
        adder={<Adder pieceId={piece.id} figuresOnce={figuresOnce} edit={edit} />}
        empty="None yet: the body is as it began."
      />
    </>
  );
}

/** What can be laid on it. */
function Adder({ pieceId, figuresOnce, edit }: Pick<PanelProps, "figuresOnce" | "edit"> & { pieceId: string }) {
  const [making, setMaking] = useState<"art" | "texture">();
  const motifs = useMotifs();
  const [asked, setAsked] = useState(false);
  const { data: used } = useQuery({
    queryKey: ["decorations", pieceId],
    enabled: asked,
    queryFn: () => takeAs<{ piece: string; decoration: Decoration }[]>(api.GET("/api/decorations", { params: { query: { besides: pieceId } } })),
  });
  const { choose, pick } = usePieceStore();
  // Where it suits is known once the body is what its numbers say.
  async function lay(making: (figures: Figures | undefined) => Promise<Decoration["art"]>) {
    try {
      const figures = await figuresOnce();
      const { id, next } = laid(await making(figures), figures);
      edit(next, "add decoration", true);
      choose("decorations", id);
      pick(id);
    } catch (error) {
      showError(error);
    }
  }
  async function layAgain(one: Decoration) {
    const { id, next } = again(one, await figuresOnce());
    edit(next, "add decoration", true);
    choose("decorations", id);
    pick(id);
  }
  async function cover(kept: Schemas["PictureOut"]) {
    const { id, next } = covered(kept, await figuresOnce());
    edit(next, "add texture", true);
    choose("decorations", id);
  }
  const bring = (art: (file: File, figures: Figures | undefined) => Promise<Decoration["art"]>) => (file: File) => void lay((figures) => art(file, figures));
  const [pictures, choosePicture] = useChooser({ label: "Picture to lay on the body", accept: "image/*", onFile: bring(SOURCES.picture) });
  const [drawings, chooseDrawing] = useChooser({ label: "Drawing to lay on the body", accept: ".svg,.dxf,image/svg+xml", onFile: bring(SOURCES.drawing) });
  return (
    <>
      {pictures}
      {drawings}
      <AddingMenu
        name="Lay on it"
        id="add-decoration"
        title="Art"
        onOpen={() => setAsked(true)}
        offers={[
          {
            id: "picture",
            name: "A picture",
            purpose: "its tones as heights, or as a flat shape",
            also: "emboss, engrave, height map",
            onChoose: choosePicture,
          },
          { id: "made", name: "A made picture", purpose: "craters, waves, scales and others", also: "pattern, noise", onChoose: () => setMaking("art") },
          {
            id: "texture",
            name: "A texture",
            purpose: "a tiling picture all over, or over some of it",
            also: "displacement, bump, knurl",
            onChoose: () => setMaking("texture"),
          },
          { id: "drawing", name: "A drawing", purpose: "SVG or DXF, at full depth", also: "vector, logo, engrave, emboss", onChoose: chooseDrawing },
          {
            id: "text",
            name: "Lettering",
            purpose: "words in a face, straight or bent",
            also: "text, engrave, emboss, mug",
            onChoose: () => void lay(SOURCES.text),
          },
          { id: "outline", name: "A shape", purpose: "a round, a star, a line and others", also: "primitive", onChoose: () => void lay(SOURCES.outline) },
          ...motifs.map((motif) => ({
            id: motif.id,
            name: motif.name,
            purpose: [motif.decoration && "with all its numbers", ...motif.tags].filter(Boolean).join(", "),
            group: "Motifs",
            onChoose: () => (motif.decoration ? void layAgain(motif.decoration as Decoration) : void lay((figures) => SOURCES.motif(motif, figures))),
          })),
          ...(used ?? []).map(({ piece, decoration }) => ({
            id: `${piece} ${decoration.id}`,
            name: titleOf(kindOf(DECORATIONS, decoration), decoration),
            purpose: piece,
            group: "From other pieces",
            onChoose: () => void layAgain(decoration),
          })),
        ]}
      />
      {making && (
        <PatternSheet
          action="Lay it on"
          make={async (kind, body) => {
            const kept = await take(api.POST("/api/patterns/{kind}/picture", { params: { path: { kind } }, body }));
            await (making === "art" ? lay((figures) => SOURCES.kept(kept, figures)) : cover(kept));
          }}
          onClose={() => setMaking(undefined)}
        />
      )}
    </>
  );
}

const LIES = { surface: "along the surface", axis: "around an axis", straight: "straight" };

function useTold({ recipe, figures }: TrailProps): Told {
  const list = place.read(recipe).filter((one) => one.enabled);
  const refused = figures?.decorations.filter(({ error }) => error).length ?? 0;
  const figure = list.length ? `${list.length} on it` : "none";
  if (refused) return { figure, state: `${refused} not laid on`, tone: "wrong" };
  const ways = [...new Set(list.map((one) => (one.kind === "texture" ? "all over" : LIES[one.lie])))];
  return { figure, state: ways.length === 1 ? ways[0] : list.length ? "in several ways" : "as it began", tone: "quiet" };
}

export const decorations: Stop = { id: "decorations", name: "Decorations", Panel: DecorationsPanel, useTold };

import { useState } from "react";
import { Dropdown } from "react-bootstrap";
import { useQuery } from "@tanstack/react-query";
import { api, type Decoration, type Schemas, take, takeAs } from "../../api/client";
import { FRESH } from "../../api/fresh";
import { useChooser } from "../../shared/ChooseFile";
import { showError } from "../../shared/notices";
import { PatternSheet } from "../../shared/PatternSheet";
import { decorations as place } from "../at";
import { usePieceStore } from "../pieceStore";
import { DECORATIONS } from "../steps/decorations";
import { again, covered, laid, SOURCES, suitableWide } from "../steps/decorations/bring";
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
  async function lay(making: (wide: number) => Promise<Decoration["art"]>) {
    try {
      const figures = await figuresOnce();
      const { id, next } = laid(await making(suitableWide(figures)), figures);
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
  const bring = (art: (file: File, wide: number) => Promise<Decoration["art"]>) => (file: File) => void lay((wide) => art(file, wide));
  const [pictures, choosePicture] = useChooser({ label: "Picture to lay on the body", accept: "image/*", onFile: bring(SOURCES.picture) });
  const [drawings, chooseDrawing] = useChooser({ label: "Drawing to lay on the body", accept: ".svg,.dxf,image/svg+xml", onFile: bring(SOURCES.drawing) });
  return (
    <>
      {pictures}
      {drawings}
      <Dropdown align="end" onToggle={(open) => open && setAsked(true)}>
        <Dropdown.Toggle size="sm" variant="plain" id="add-decoration">
          Lay on it
        </Dropdown.Toggle>
        <Dropdown.Menu className="adding-menu">
          <Source name="A picture" purpose="its tones as heights, or as a flat shape" onClick={choosePicture} />
          <Source name="A made picture" purpose="craters, waves, scales and others" onClick={() => setMaking("art")} />
          <Source name="A texture" purpose="a tiling picture all over, or over some of it" onClick={() => setMaking("texture")} />
          <Source name="A drawing" purpose="SVG or DXF, at full depth" onClick={chooseDrawing} />
          <Source name="Lettering" purpose="words in a face, straight or bent" onClick={() => void lay(SOURCES.text)} />
          <Source name="A shape" purpose="a round, a star, a line and others" onClick={() => void lay(SOURCES.outline)} />
          {motifs.length > 0 && <Dropdown.Header role="presentation">Motifs</Dropdown.Header>}
          {motifs.map((motif) => (
            <Source key={motif.id} name={motif.name} purpose={[motif.decoration && "with all its numbers", ...motif.tags].filter(Boolean).join(", ")} onClick={() => (motif.decoration ? void layAgain(motif.decoration as Decoration) : void lay((wide) => SOURCES.motif(motif, wide)))} />
          ))}
          {used && used.length > 0 && <Dropdown.Header role="presentation">From other pieces</Dropdown.Header>}
          {used?.map(({ piece, decoration }) => (
            <Source key={`${piece} ${decoration.id}`} name={titleOf(kindOf(DECORATIONS, decoration), decoration)} purpose={piece} onClick={() => void layAgain(decoration)} />
          ))}
        </Dropdown.Menu>
      </Dropdown>
      {making && (
        <PatternSheet
          action="Lay it on"
          make={async (kind, body) => {
            const kept = await take(api.POST("/api/patterns/{kind}/picture", { params: { path: { kind } }, body }));
            await (making === "art" ? lay((wide) => SOURCES.kept(kept, wide)) : cover(kept));
          }}
          onClose={() => setMaking(undefined)}
        />
      )}
    </>
  );
}

function Source({ name, purpose, onClick }: { name: string; purpose: string; onClick: () => void }) {
  return (
    <Dropdown.Item as="button" type="button" onClick={onClick}>
      <strong>{name}</strong>
      <span className="quiet"> {purpose}</span>
    </Dropdown.Item>
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

import { useRef } from "react";
import { addPicture } from "../../api/client";
import { FRESH, newId } from "../../api/fresh";
import { Button } from "../../shared/Button";
import { showError } from "../../shared/notices";
import { change, decorations as place } from "../at";
import { usePieceStore } from "../pieceStore";
import { artOf, DECORATIONS, inFront, suitableWide } from "../steps/decorations";
import type { Remark } from "../steps/kinds";
import { StepList } from "../steps/StepList";
import type { PanelProps, Stop, Told, TrailProps } from "./stop";

/** Art on the body, one after the other. */
function DecorationsPanel({ recipe, figures, edit }: PanelProps) {
  const chooser = useRef<HTMLInputElement>(null);
  const { choose, pick } = usePieceStore();
  const remarks = new Map(
    figures?.decorations.flatMap(({ decoration_id, error }): [string, Remark][] => (error ? [[decoration_id, { error, refused: true }]] : [])),
  );
  async function bring(file: File) {
    try {
      const kept = await addPicture(file);
      const id = newId("decoration");
      const one = { ...FRESH.decoration, id, art: artOf(kept, suitableWide(figures)), at: inFront(figures) };
      edit(change(place, (now) => [...now, one as (typeof now)[number]]), "add decoration", true);
      choose("decorations", id);
      pick(id);
    } catch (error) {
      showError(error);
    }
  }
  return (
    <>
      <h2>Decorations</h2>
      <p className="intro">Art laid on the body along its surface, in order: as deep everywhere, and closed.</p>
      <input
        ref={chooser}
        type="file"
        hidden
        accept="image/*"
        aria-label="Picture to lay on the body"
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          if (file) void bring(file);
        }}
      />
      <Button size="sm" className="mb-3" onClick={() => chooser.current?.click()}>
        Bring a picture
      </Button>
      <StepList
        title="Decorations on it"
        what="decorations"
        one="decoration"
        list="decorations"
        kinds={DECORATIONS}
        fresh={{ decoration: FRESH.decoration }}
        place={place}
        recipe={recipe}
        context={{ recipe, figures }}
        remarks={remarks}
        edit={edit}
        empty="None yet: the body is as it was brought."
      />
    </>
  );
}

function useTold({ recipe, figures }: TrailProps): Told {
  const list = place.read(recipe).filter((one) => one.enabled);
  const refused = figures?.decorations.filter(({ error }) => error).length ?? 0;
  const figure = list.length ? `${list.length} on it` : "none";
  if (refused) return { figure, state: `${refused} not laid on`, tone: "wrong" };
  return { figure, state: list.length ? "along the surface" : "as it was brought", tone: "quiet" };
}

export const decorations: Stop = { id: "decorations", name: "Decorations", Panel: DecorationsPanel, useTold };

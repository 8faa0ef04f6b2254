import { useState } from "react";
import { api, type Decoration, type Recipe, takeAs, type Motif } from "../../../api/client";
import { Button } from "../../../shared/Button";
import { MotifSheet } from "../../../shared/MotifSheet";

/** The decoration with all its numbers, kept for other bodies. */
export function KeepMotif({ step, recipe, name }: { step: Decoration; recipe: Recipe; name: string }) {
  const [naming, setNaming] = useState(false);
  return (
    <>
      <Button size="sm" variant="plain" onClick={() => setNaming(true)}>
        Keep as motif
      </Button>
      {naming && (
        <MotifSheet
          name={name}
          waits="It waits on the shelf, and under “Lay on it” for the next body."
          keep={(called) => takeAs<Motif>(api.POST("/api/motifs/decorations", { body: { recipe, decoration_id: step.id, ...called } }))}
          onClose={() => setNaming(false)}
        />
      )}
    </>
  );
}

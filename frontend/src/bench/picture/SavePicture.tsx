import { useState } from "react";
import { api, type Motif, type Piece, takeAs } from "../../api/client";
import { Button } from "../../shared/Button";
import { MotifSheet } from "../../shared/MotifSheet";
import { SaveButton } from "../../shared/SaveButton";

interface Props {
  piece: Piece;
  settle: () => Promise<boolean>;
}

/** The corrected picture as a file, or as a motif for other pieces. */
export function SavePicture({ piece, settle }: Props) {
  const [naming, setNaming] = useState(false);
  return (
    <div className="d-flex gap-2 mt-3">
      <SaveButton size="sm" piece={piece} product="picture.png" settle={settle}>
        Save as 16-bit PNG
      </SaveButton>
      <Button size="sm" variant="plain" onClick={() => setNaming(true)}>
        Keep as motif
      </Button>
      {naming && (
        <MotifSheet
          name={piece.name}
          waits="It waits on the shelf and under Second picture."
          keep={async (called) => ((await settle()) ? takeAs<Motif>(api.POST("/api/motifs", { body: { piece_id: piece.id, ...called } })) : undefined)}
          onClose={() => setNaming(false)}
        />
      )}
    </div>
  );
}

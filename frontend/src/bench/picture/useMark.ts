import { useEffect, useState } from "react";
import { postForBlob, type Recipe } from "../../api/client";
import { showError } from "../../shared/notices";
import { usePieceStore } from "../pieceStore";

/** Where the finding that is marked lies in the picture, opaque where it applies. */
export function useMark(recipe: Recipe): ImageBitmap | undefined {
  const marked = usePieceStore((state) => state.marked);
  const [mark, setMark] = useState<ImageBitmap>();
  useEffect(() => {
    setMark(undefined);
    if (marked === undefined) return;
    let dropped = false;
    postForBlob("/api/report/mark.png", { recipe, key: marked }).then(async (blob) => {
      const bitmap = await createImageBitmap(blob);
      if (!dropped) setMark(bitmap);
    }, showError);
    return () => {
      dropped = true;
    };
    // The mark belongs to the report of the recipe at the time it was asked for.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [marked]);
  return mark;
}

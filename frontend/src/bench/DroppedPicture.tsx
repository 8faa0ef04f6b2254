import { useState } from "react";
import { Modal } from "react-bootstrap";
import { useNavigate } from "react-router";
import { addDrawing, addPicture, bringPicture, type Correction, type Entry, isDrawing, isMesh, type Piece } from "../api/client";
import { FRESH, newId } from "../api/fresh";
import { afterwards } from "../shared/afterwards";
import { Button } from "../shared/Button";
import { showError } from "../shared/notices";
import { useDroppedFiles } from "../shared/useDroppedFiles";
import { buildUp, change, corrections, hasHeights, hasPicture } from "./at";
import { usePieceStore } from "./pieceStore";
import { freshCorrection } from "./steps/corrections";
import { laid as laidOn, SOURCES } from "./steps/decorations/bring";
import type { PanelProps } from "./stops/stop";
import { Sheet } from "../shared/Sheet";

/** What is dropped or pasted on the bench: a piece of its own, or laid on this one. */
export function DroppedPicture({ piece, recipe, figuresOnce, edit }: Pick<PanelProps, "piece" | "recipe" | "figuresOnce" | "edit">) {
  const [files, setFiles] = useState<File[]>([]);
  const [busy, setBusy] = useState(false);
  const navigate = useNavigate();
  const over = useDroppedFiles(setFiles);
  const go = usePieceStore((state) => state.go);
  const choose = usePieceStore((state) => state.choose);
  const pick = usePieceStore((state) => state.pick);

  async function act(what: () => Promise<void>) {
    setBusy(true);
    try {
      await what();
      setFiles([]);
    } catch (error) {
      showError(error);
    } finally {
      setBusy(false);
    }
  }
  const begin = () =>
    act(async () => {
      let last: Piece | undefined;
      for (const file of files) last = await bringPicture(file);
      if (last) await navigate(`/pieces/${last.id}`);
    });
  const drawn = files.length === 1 && isDrawing(files[0]);
  // What has no heights takes neither, and a mesh lies on no heights.
  const mesh = files.some(isMesh);
  const laid = hasHeights(recipe) && !mesh;
  const decorated = recipe.begins.kind === "body" && !mesh;
  const decorate = () =>
    act(async () => {
      const source = drawn ? SOURCES.drawing : SOURCES.picture;
      const figures = await figuresOnce();
      const { id, next } = laidOn(await source(files[0], figures), figures);
      edit(next, "add decoration", true);
      go("decorations");
      choose("decorations", id);
      afterwards(() => pick(id)); // the stop before lets go of what pointing does
    });
  const layDrawing = () =>
    act(async () => {
      const { sha256, filename, unit, guess } = await addDrawing(files[0]);
      const file = { sha256, filename };
      const step = { ...FRESH.entries.drawing, id: newId("entry"), file, unit: unit ? "file" : guess, rule: "highest" } as unknown as Entry;
      edit(
        change(buildUp, (list) => [...list, step]),
        "add drawing",
        true,
      );
      go("heights");
      choose("entries", step.id);
    });
  const lay = () =>
    act(async () => {
      if (!hasPicture(piece)) return;
      const { sha256, filename } = await addPicture(files[0]);
      const step = { ...freshCorrection("overlay", { piece, recipe }), sha256, filename } as Correction;
      edit(
        change(corrections, (list) => [...list, step]),
        "add second picture",
        true,
      );
      go("picture");
      choose("corrections", step.id);
    });

  return (
    <>
      {over && <div className="drop-veil">Let go to use it here</div>}
      {files.length > 0 && (
        <Sheet label="What to do with it" onClose={() => setFiles([])}>
          <Modal.Header closeButton>
            <Modal.Title as="h2">{files.length === 1 ? files[0].name : `${files.length} files`}</Modal.Title>
          </Modal.Header>
          <Modal.Body>
            {decorated
              ? "Begin a piece with it, or lay it on this body?"
              : !laid
                ? "Begin a piece with it?"
                : drawn
                  ? "Begin a piece with it, or lay it in the build-up of this one?"
                  : "Begin a piece with it, or lay it on top of this piece’s picture?"}
          </Modal.Body>
          <Modal.Footer>
            <Button variant="plain" onClick={() => setFiles([])}>
              Neither
            </Button>
            {decorated && (
              <Button variant="plain" disabled={busy || files.length > 1} onClick={() => void decorate()}>
                On this body
              </Button>
            )}
            {laid && (
              <Button variant="plain" disabled={busy || files.length > 1} onClick={() => void (drawn ? layDrawing() : lay())}>
                {drawn ? "In this build-up" : "On top of this picture"}
              </Button>
            )}
            <Button autoFocus disabled={busy} onClick={() => void begin()}>
              A new piece
            </Button>
          </Modal.Footer>
        </Sheet>
      )}
    </>
  );
}

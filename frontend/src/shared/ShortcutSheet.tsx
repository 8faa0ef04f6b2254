import { useState } from "react";
import { Modal } from "react-bootstrap";
import { keysAreTaken, useShortcuts } from "./useShortcuts";
import { Sheet } from "./Sheet";

const KEYS: [string, string][] = [
  ["1, 2, 3 …", "go to a stop of the trail"],
  ["Ctrl Z", "undo; in a field what is typed first"],
  ["Ctrl Shift Z or Ctrl Y", "redo"],
  ["arrow up, down", "in a number: a little more or less; with Shift ten times that"],
  ["Shift 1, 2, 3", "see the piece from the front, the side, above"],
  ["Shift 0", "see all of the piece"],
  ["L", "mesh lines on or off"],
  ["H", "held before the lamp, or not"],
  ["hold B", "see the picture as it was brought in"],
  ["C", "compare before and after, side by side"],
  ["+, −, 0", "zoom the picture in, out, see all of it"],
  [", and .", "a smaller or larger brush"],
  ["Shift while painting", "a straight line"],
  ["arrows, on a grip", "move it by a pixel; with Shift ten"],
  ["arrows, in the picture", "move the brush or the pointer; with Shift ten times as far"],
  ["Space, in the picture", "put the brush down, lift it"],
  ["Enter, in the picture", "what a click does"],
  ["arrows, on the section", "move along it; Enter sets a mark"],
  ["Alt ↑, Alt ↓", "move a correction up or down the list"],
  ["Esc", "leave a stroke; close the correction that is open"],
  ["[ and ]", "the section: see more of it, see it closer"],
  ["M", "set a mark on the section where the pointer is"],
  ["X", "export"],
  ["/", "find a piece, on the shelf"],
  ["?", "this sheet"],
];

/** Opens on `?`: every key that does something. */
export function ShortcutSheet() {
  const [open, setOpen] = useState(false);
  useShortcuts({ "?": () => (open ? setOpen(false) : !keysAreTaken() && setOpen(true)) }, true);
  return (
    <Sheet label="Keys" open={open} onClose={() => setOpen(false)}>
      <Modal.Header closeButton>
        <Modal.Title as="h2">Keys</Modal.Title>
      </Modal.Header>
      <Modal.Body tabIndex={0}>
        <table className="table table-sm mb-0">
          <tbody>
            {KEYS.map(([key, what]) => (
              <tr key={key}>
                <th scope="row" className="mono text-nowrap">
                  {key}
                </th>
                <td>{what}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Modal.Body>
    </Sheet>
  );
}

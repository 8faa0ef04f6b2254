import { useRef } from "react";
import { Spinner } from "react-bootstrap";
import { Button } from "../shared/Button";
import { useDroppedFiles } from "../shared/useDroppedFiles";
import { COLOURS } from "../shared/colours";

interface Props {
  busy: boolean;
  onFiles: (files: File[]) => void;
}

/** Takes pictures, drawings and meshes dropped anywhere on the page, pasted, or chosen. */
export function DropArea({ busy, onFiles }: Props) {
  const over = useDroppedFiles(onFiles);
  const chooser = useRef<HTMLInputElement>(null);

  return (
    <section className="drop-area" aria-label="Bring a picture, a drawing or a mesh">
      <svg width="118" height="82" viewBox="0 0 118 82" aria-hidden="true">
        <rect x="1" y="1" width="61" height="52" rx="4" fill={COLOURS.white} stroke={COLOURS.line} strokeWidth="1.5" />
        <circle cx="50" cy="14" r="5" fill={COLOURS.line} />
        <path d="M8 46 24 26l10 11 9-12 13 21Z" fill={COLOURS.bars} />
        <path d="M48 80V74h11l7-11 7 7 10-17 9 21h24v6Z" fill={COLOURS.stone} stroke={COLOURS.ink} strokeWidth="1.4" strokeLinejoin="round" />
      </svg>
      <div>
        <h2 className="h1 mb-1">Bring a picture, a drawing or a mesh</h2>
        <div className="quiet">
          Drop it anywhere, paste it, or choose a file. PNG, JPEG, TIFF, WebP or BMP, 8 or 16 bits; SVG or DXF, in its true size; STL, 3MF, OBJ, PLY, GLB or
          OFF, to be finished; or a piece saved as ZIP.
        </div>
      </div>
      <input
        ref={chooser}
        type="file"
        hidden
        multiple
        accept="image/png,image/jpeg,image/tiff,image/webp,image/bmp,image/gif,image/svg+xml,.svg,.dxf,.stl,.3mf,.obj,.ply,.glb,.gltf,.off,.zip"
        aria-label="Files"
        onChange={(event) => {
          const files = [...(event.target.files ?? [])];
          event.target.value = "";
          if (files.length) onFiles(files);
        }}
      />
      <Button variant="primary" disabled={busy} onClick={() => chooser.current?.click()}>
        {busy && <Spinner size="sm" className="me-2" />}
        {busy ? "Reading" : "Choose a file"}
      </Button>
      {over && <div className="drop-veil">Let go to put it on the shelf</div>}
    </section>
  );
}

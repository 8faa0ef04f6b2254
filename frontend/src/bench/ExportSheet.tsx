import { useState } from "react";
import { Modal } from "react-bootstrap";
import type { ErrorDetail, Figures, Length, Piece } from "../api/client";
import { Choice } from "../shared/Choice";
import { Figure, FigureList } from "../shared/Figure";
import { count, mm } from "../shared/format";
import { LengthField } from "../shared/LengthField";
import { SaveButton } from "../shared/SaveButton";
import { SelectField } from "../shared/SelectField";
import { buildUp, hasHeights } from "./at";
import { type FileUnit, FORMATS, type FormatName, lastAs, lastFormat, productOf, rememberAs, rememberFormat, UNITS, type Up } from "./formats";
import { entryTitle } from "./steps/entries";
import { Button } from "../shared/Button";
import { Sheet } from "../shared/Sheet";

const UPS = [
  ["z", "z"],
  ["y", "y"],
] as const;

interface Props {
  piece: Piece;
  /** Of the recipe that is exported. */
  figures: Figures | undefined;
  /** Why that cannot be made. */
  problem: ErrorDetail | undefined;
  settle: () => Promise<boolean>;
  onClose: () => void;
}

/** Says what will be written, then writes it. */
export function ExportSheet({ piece, figures, problem, settle, onClose }: Props) {
  const full = figures?.quality === "full" ? figures : undefined;
  const [name, setName] = useState(lastFormat);
  const format = FORMATS.find((one) => one.name === name) ?? FORMATS[0];
  const [[unit, up], setAs] = useState(lastAs);
  const as = (unit: FileUnit, up: Up) => {
    setAs([unit, up]);
    rememberAs(unit, up);
  };
  const choose = (chosen: FormatName) => {
    setName(chosen);
    rememberFormat(chosen);
  };

  return (
    <Sheet label="Export" onClose={onClose}>
      <Modal.Header closeButton>
        <Modal.Title as="h2">Export</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <SelectField label="Format" value={name} options={FORMATS.map((one) => [one.name, one.name] as const)} onChange={choose} />
        <p className="mt-2">
          {format.purpose} At full quality, {hasHeights(piece.recipe) ? "underside at z\u00a0=\u00a00" : "where it lies by its finish steps"}, and read back
          before it is given out.
        </p>
        {"bare" in format && (
          <>
            <Choice label="Unit" value={unit} options={UNITS.map((one) => [one, one] as const)} onChange={(chosen) => as(chosen, up)} />
            <Choice label="Up is" value={up} options={UPS} onChange={(chosen) => as(unit, chosen)} />
          </>
        )}
        {full ? (
          <FigureList>
            <Figure name="Size">{full.mesh.size_mm.map((side) => mm(side, 3)).join(" × ")} mm</Figure>
            <Figure name="Triangles">{count(full.mesh.triangles)}</Figure>
            <Figure name="File">
              {"exact" in format ? "" : "about "}
              {mm(format.bytes(full.mesh.triangles) / 1e6)} MB
            </Figure>
            <Figure name="Closed, manifold">{full.mesh.manifold ? "yes" : "no"}</Figure>
          </FigureList>
        ) : (
          <p className={problem ? "state-wrong" : "quiet"}>
            {problem ? `It cannot be made as it is: ${problem.why}. ${problem.remedy}.` : "Full quality is made first; its figures follow."}
          </p>
        )}
        {piece.recipe.begins.kind === "figure" && (
          <section className="export-outlines" aria-label="With its picture">
            <h3>With its picture</h3>
            <p className="quiet">The picture itself lies over it as a texture with its own map: colours stay fine where triangles are few.</p>
            <SaveButton size="sm" piece={piece} product="textured.glb" settle={settle}>
              Textured GLB
            </SaveButton>
          </section>
        )}
        <Outlines {...{ piece, figures: full, settle }} />
        <section className="export-outlines" aria-label="Pictures of it">
          <h3>Pictures of it</h3>
          <div className="d-flex gap-2 mt-2">
            <SaveButton size="sm" piece={piece} product="rendered.png" settle={settle}>
              PNG
            </SaveButton>
            <SaveButton size="sm" piece={piece} product="turntable.webp" settle={settle}>
              Turned, WebP
            </SaveButton>
            <SaveButton size="sm" piece={piece} product="turntable.gif" settle={settle}>
              Turned, GIF
            </SaveButton>
          </div>
        </section>
      </Modal.Body>
      <Modal.Footer>
        <Button variant="plain" onClick={onClose}>
          Not now
        </Button>
        <SaveButton piece={piece} product="piece.zip" settle={settle}>
          {piece.picture ? "Recipe with pictures" : "Recipe with its mesh"}
        </SaveButton>
        <SaveButton main piece={piece} product={productOf(format, unit, up)} settle={settle} onSaved={onClose}>
          Download {format.name}
        </SaveButton>
      </Modal.Footer>
    </Sheet>
  );
}

const AT_HEIGHT = "";

/** The outline of an entry, or of the piece at a height, for a laser or another program. */
function Outlines({ piece, figures, settle }: Omit<Props, "onClose" | "problem">) {
  const entries = (hasHeights(piece.recipe) ? buildUp.read(piece.recipe) : []).filter((entry) => entry.enabled && entry.kind !== "picture");
  const [of, setOf] = useState(entries[0]?.id ?? AT_HEIGHT);
  const [height, setHeight] = useState<Length>({ mm: 0.5, text: null });
  const highest = figures?.mesh.size_mm[2] ?? 50;
  const options = [...entries.map((entry) => [entry.id, entryTitle(entry)] as const), [AT_HEIGHT, "the piece at a height"] as const];
  const name = of === AT_HEIGHT ? `height-${Number(height.mm.toFixed(4))}` : `entry-${of}`;
  return (
    <section className="export-outlines" aria-label="Outline">
      <h3>Outline</h3>
      <SelectField label="Of" value={of} options={options} onChange={setOf} />
      {of === AT_HEIGHT && (
        <LengthField
          label="Height"
          value={height}
          range={[0.01, highest]}
          limits={[0.01, highest]}
          step={0.1}
          onChange={(value) => setHeight({ text: null, ...value })}
        />
      )}
      <div className="d-flex gap-2 mt-2">
        <SaveButton size="sm" piece={piece} product={`${name}.svg`} settle={settle}>
          SVG
        </SaveButton>
        <SaveButton size="sm" piece={piece} product={`${name}.dxf`} settle={settle}>
          DXF, polylines
        </SaveButton>
        <SaveButton size="sm" piece={piece} product={`${name}-splines.dxf`} settle={settle}>
          DXF, splines
        </SaveButton>
      </div>
    </section>
  );
}

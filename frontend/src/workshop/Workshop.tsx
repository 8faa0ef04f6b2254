import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Spinner } from "react-bootstrap";
import { api, type Material, type Printer, take } from "../api/client";
import { FRESH } from "../api/fresh";
import { focusAfterwards, labelled } from "../shared/afterwards";
import { Button } from "../shared/Button";
import { EmptyState } from "../shared/EmptyState";
import { mm } from "../shared/format";
import { showError, useNotices } from "../shared/notices";
import { PageHead } from "../shared/PageHead";
import { Calibration } from "./Calibration";
import { type FieldOf, ThingCard } from "./ThingCard";
import { COLOURS } from "../shared/colours";
import { askAnew } from "../shared/askAnew";

const PRINTER_FIELDS: FieldOf<Printer>[] = [
  { key: "nozzle_mm", label: "Nozzle", unit: "mm" },
  { key: "line_mm", label: "Line width", unit: "mm" },
  { key: "layer_mm", label: "Layer height", unit: "mm" },
  { key: "bed_wide_mm", label: "Bed width", unit: "mm" },
  { key: "bed_deep_mm", label: "Bed depth", unit: "mm" },
  { key: "bed_high_mm", label: "Bed height", unit: "mm" },
];
const MATERIAL_FIELDS: FieldOf<Material>[] = [
  { key: "density_g_cm3", label: "Density", unit: "g/cm³" },
  { key: "price_per_kg", label: "Price", unit: "per kg" },
  { key: "attenuation_per_mm", label: "Light held back", unit: "per mm" },
];

const BED = { bed_wide_mm: 200, bed_deep_mm: 200, bed_high_mm: 200 };
const NEW_PRINTER: Printer = { ...FRESH.printer, ...BED, id: "new", name: "New printer" };
const NEW_MATERIAL: Material = { ...FRESH.material, id: "new", name: "New material", colour: COLOURS.stone };

/** The printers and materials at hand. */
export function Workshop() {
  const queries = useQueryClient();
  const show = useNotices((state) => state.show);
  const [measured, setMeasured] = useState<Material>();
  const [fresh, setFresh] = useState<"printer" | "material">();
  const workshop = useQuery({ queryKey: ["workshop"], queryFn: () => take(api.GET("/api/workshop")) });
  const refresh = () => askAnew(queries, "workshop");
  const keepPrinter = useMutation({
    mutationFn: (body: Printer) =>
      body.id === "new"
        ? take(api.POST("/api/workshop/printers", { body }))
        : take(api.PUT("/api/workshop/printers/{printer_id}", { params: { path: { printer_id: body.id } }, body })),
    onSuccess: refresh,
  });
  const keepMaterial = useMutation({
    mutationFn: (body: Material) =>
      body.id === "new"
        ? take(api.POST("/api/workshop/materials", { body }))
        : take(api.PUT("/api/workshop/materials/{material_id}", { params: { path: { material_id: body.id } }, body })),
    onSuccess: refresh,
  });
  const restore = useMutation({
    mutationFn: async ({ kind, id }: { kind: "printer" | "material"; id: string; name: string }) => {
      if (kind === "printer") await take(api.POST("/api/workshop/printers/{printer_id}/restore", { params: { path: { printer_id: id } } }));
      else await take(api.POST("/api/workshop/materials/{material_id}/restore", { params: { path: { material_id: id } } }));
    },
    onError: showError,
    onSuccess: async (_, { name }) => {
      await refresh();
      focusAfterwards(labelled(`Change ${name}`));
    },
  });
  const remove = useMutation({
    mutationFn: async ({ kind, id }: { kind: "printer" | "material"; id: string; name: string }) => {
      if (kind === "printer") await take(api.DELETE("/api/workshop/printers/{printer_id}", { params: { path: { printer_id: id } } }));
      else await take(api.DELETE("/api/workshop/materials/{material_id}", { params: { path: { material_id: id } } }));
    },
    onError: showError,
    onSuccess: async (_, { kind, id, name }) => {
      show({
        tone: "plain",
        title: `“${name}” was taken out of the workshop`,
        text: "Pieces made with it keep its figures.",
        action: { label: "Put it back", run: () => restore.mutate({ kind, id, name }) },
      });
      await refresh();
      focusAfterwards(`[data-add="${kind}"]`);
    },
  });

  const { data } = workshop;
  return (
    <div className="workshop">
      <PageHead title="Workshop" />
      <main className="workshop-body">
        {workshop.isPending && <Spinner role="status" aria-label="Loading the workshop" />}
        {workshop.isError && (
          <EmptyState title="The workshop cannot be read">
            <Button variant="plain" onClick={() => void workshop.refetch()}>
              Try again
            </Button>
          </EmptyState>
        )}
        {data && (
          <>
            <section aria-label="Printers">
              <div className="workshop-head">
                <h1 className="h2">Printers</h1>
                <span className="quiet">What a line and a layer are worth, for the section’s combs, the picture report and every typed length.</span>
                <Button size="sm" variant="plain" data-add="printer" onClick={() => setFresh("printer")}>
                  Add a printer
                </Button>
              </div>
              <div className="things">
                {fresh === "printer" && (
                  <ThingCard
                    thing={NEW_PRINTER}
                    fields={PRINTER_FIELDS}
                    kind="printer"
                    opened
                    figure=""
                    keep={(body) => keepPrinter.mutateAsync(body)}
                    done={() => setFresh(undefined)}
                  />
                )}
                {data.printers.map((printer) => (
                  <ThingCard
                    key={printer.id}
                    thing={printer}
                    fields={PRINTER_FIELDS}
                    kind="printer"
                    figure={`${mm(printer.line_mm)} mm lines, ${mm(printer.layer_mm)} mm layers`}
                    keep={(body) => keepPrinter.mutateAsync(body)}
                    remove={() => remove.mutate({ kind: "printer", id: printer.id, name: printer.name })}
                  />
                ))}
              </div>
            </section>
            <section aria-label="Materials">
              <div className="workshop-head">
                <h2>Materials</h2>
                <span className="quiet">What pieces weigh, cost, and let through of a lamp’s light.</span>
                <Button size="sm" variant="plain" data-add="material" onClick={() => setFresh("material")}>
                  Add a material
                </Button>
              </div>
              <div className="things">
                {fresh === "material" && (
                  <ThingCard
                    thing={NEW_MATERIAL}
                    fields={MATERIAL_FIELDS}
                    kind="material"
                    opened
                    figure=""
                    keep={(body) => keepMaterial.mutateAsync(body)}
                    done={() => setFresh(undefined)}
                  />
                )}
                {data.materials.map((material) => (
                  <ThingCard
                    key={material.id}
                    thing={material}
                    fields={MATERIAL_FIELDS}
                    kind="material"
                    figure={material.attenuation_error == null ? "light not measured yet" : `light measured, ± ${mm(material.attenuation_error, 3)} per mm`}
                    action={{ label: "Measure its light", run: () => setMeasured(material) }}
                    keep={(body) => keepMaterial.mutateAsync(body)}
                    remove={() => remove.mutate({ kind: "material", id: material.id, name: material.name })}
                  />
                ))}
              </div>
            </section>
          </>
        )}
      </main>
      {measured && <Calibration material={measured} keep={(body) => keepMaterial.mutateAsync(body)} onClose={() => setMeasured(undefined)} />}
    </div>
  );
}

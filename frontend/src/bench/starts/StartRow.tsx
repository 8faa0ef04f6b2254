import { useMutation, useQuery } from "@tanstack/react-query";
import { api, type Recipe, type Schemas, take, takeAs } from "../../api/client";
import { Button } from "../../shared/Button";
import { art, fittings, form } from "../at";
import { sentence, showError } from "../../shared/notices";
import { useBench } from "../benchStore";
import type { OpenPiece } from "../usePiece";

type Name = Schemas["SuitedOut"]["start"];

/** In the order they are offered; what they come to is the core's. */
const STARTS: [Name, string][] = [
  ["relief", "its light tones stand high"],
  ["light panel", "dark tones thick, white as thin as light needs it, with a rim"],
  ["flat tones", "each of its flat tones a height of its own"],
  ["cut-out", "the shape alone, 3 mm thick, its upper edge broken"],
  ["cutter", "a wall along the shape that ends in a blade, for dough or clay; mirrored, so that what it cuts is not"],
  ["stamp", "the shape raised and mirrored, on a block with a handle"],
  ["stencil", "the shape cut through a plate, with bridges"],
  ["coin", "50 mm across, with a rim and words around it; a plain ground is left out"],
  ["figure", "the subject in the round, in its colours"],
];

/** Where the trade has a word of its own. */
const KNOWN_AS: Partial<Record<Name, string>> = { "light panel": "light panel (lithophane)", coin: "coin or medal" };

/** What a piece may be set up for, until something was; one undo takes it back. */
export function StartRow({ recipe, edit }: { recipe: Recipe; edit: OpenPiece["edit"] }) {
  const { data } = useQuery({
    queryKey: ["starts", art.read(recipe), form.read(recipe), fittings.read(recipe)],
    queryFn: () => take(api.POST("/api/starts", { body: { recipe } })),
    staleTime: Infinity,
    gcTime: 10_000,
    retry: false,
  });
  const setLook = useBench((state) => state.setLook);
  const begin = useMutation({
    mutationFn: (name: Name) => takeAs<Recipe>(api.POST("/api/starts/{name}", { params: { path: { name } }, body: { recipe } })),
    onSuccess: (made, name) => {
      edit(() => made, `begin as ${name}`, true);
      if (name === "figure") setLook("coloured");
    },
    onError: showError,
  });
  if (!data?.untouched) return null;
  const [best, next] = data.suited;
  return (
    <section className="start-row" aria-label="Begin as">
      <p className="field-help">
        {sentence(best.start)} would suit it: {best.why}.{next && ` Or ${next.start}: ${next.why}.`}
      </p>
      <span>Begin as</span>
      {STARTS.map(([name, purpose]) => (
        <Button
          key={name}
          size="sm"
          variant={name === best.start ? "primary" : "plain"}
          title={purpose}
          disabled={begin.isPending}
          onClick={() => begin.mutate(name)}
        >
          {KNOWN_AS[name] ?? name}
        </Button>
      ))}
    </section>
  );
}

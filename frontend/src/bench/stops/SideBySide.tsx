import { useQuery } from "@tanstack/react-query";
import { type Figure as Begun, type KeptFigure, postForBlob, type Recipe } from "../../api/client";
import { FRESH, newId } from "../../api/fresh";
import { Button } from "../../shared/Button";
import { mm } from "../../shared/format";
import { figure as at } from "../at";

const TURNED = 25;
const MOST = 12;
const NUMBERS = [
  "way",
  "thick",
  "back",
  "roundness",
  "softness",
  "detail",
  "dark_stands",
  "axis",
  "half_round",
  "wall",
] as const satisfies readonly (keyof Begun & keyof KeptFigure)[];
type Numbers = Pick<Begun, (typeof NUMBERS)[number]>;

const numbersOf = (of: Begun | KeptFigure): Numbers => Object.fromEntries(NUMBERS.map((name) => [name, of[name]])) as unknown as Numbers;
const alike = (a: Numbers, b: Numbers) => JSON.stringify(numbersOf(a as KeptFigure)) === JSON.stringify(numbersOf(b as KeptFigure));

interface Props {
  recipe: Recipe;
  ways: [Begun["way"], string][];
  set: (part: Partial<Begun>, label: string) => void;
}

/** Results that are kept to be seen beside each other, and taken again. */
export function SideBySide({ recipe, ways, set }: Props) {
  const begun = at.read(recipe);
  const { kept } = begun;
  const now = numbersOf(begun);
  const fresh = (numbers: Numbers): KeptFigure => ({ ...FRESH.kept_figure, ...numbers, id: newId("kept") });
  const keep = (more: KeptFigure[]) => set({ kept: [...kept, ...more].slice(0, MOST) }, "results side by side");
  const wayOf = (one: KeptFigure) => ways.find(([way]) => way === one.way)?.[1] ?? one.way;
  const nameOf = (one: KeptFigure) => {
    const alikeNamed = kept.filter((other) => wayOf(other) === wayOf(one));
    return alikeNamed.length > 1 ? `${wayOf(one)} ${alikeNamed.indexOf(one) + 1}` : wayOf(one);
  };
  const missing = ways.map(([way]) => ({ ...now, way })).filter((one) => !kept.some((other) => alike(one, other)));
  return (
    <section aria-label="Side by side">
      <h3 className="mt-3">Side by side</h3>
      <div className="d-flex gap-2 flex-wrap">
        <Button size="sm" variant="plain" disabled={kept.length >= MOST || kept.some((one) => alike(one, now))} onClick={() => keep([fresh(now)])}>
          Keep this result
        </Button>
        <Button size="sm" variant="plain" disabled={missing.length === 0} onClick={() => keep(missing.map(fresh))}>
          See every way
        </Button>
      </div>
      {kept.length === 0 && <p className="field-help">Kept results stay with the piece, and are taken again at any time.</p>}
      <ul className="kept-results">
        {kept.map((one) => {
          const name = nameOf(one);
          const taken = alike(one, now);
          return (
            <li key={one.id} aria-label={name} aria-current={taken}>
              <Look recipe={recipe} numbers={numbersOf(one)} name={name} />
              <span className="mono">{name}</span>
              <span className="quiet">
                {[one.thick ? `${mm(one.thick.mm, 1)} mm thick` : "", one.detail.mm ? `${mm(one.detail.mm)} mm detail` : ""].filter(Boolean).join(", ")}
              </span>
              <div className="d-flex gap-1">
                <Button
                  size="sm"
                  variant="plain"
                  disabled={taken}
                  aria-label={`${taken ? "Taken" : "Take"}: ${name}`}
                  onClick={() => set(numbersOf(one), "result taken")}
                >
                  {taken ? "Taken" : "Take"}
                </Button>
                <Button
                  size="sm"
                  variant="plain"
                  aria-label={`Remove: ${name}`}
                  onClick={() => set({ kept: kept.filter((other) => other.id !== one.id) }, "results side by side")}
                >
                  Remove
                </Button>
              </div>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

/** A small picture of how it would come out. */
function Look({ recipe, numbers, name }: { recipe: Recipe; numbers: Numbers; name: string }) {
  const whole: Recipe = { ...recipe, begins: { ...at.read(recipe), ...numbers, kept: [] }, finish: [] };
  const look = useQuery({
    queryKey: ["look", JSON.stringify(whole.begins)],
    queryFn: async () => asAddress(await postForBlob("/api/figures/look.png", { recipe: whole, turned: TURNED })),
    retry: false,
    staleTime: Infinity,
    gcTime: 60_000,
  });
  if (look.isError) return <span className="kept-look quiet">It cannot be made so.</span>;
  return <span className="kept-look">{look.data ? <img src={look.data} alt={`${name}, as a draft`} /> : <span className="quiet">…</span>}</span>;
}

/** What shows it and is forgotten with the words it is made of, unlike the address of an object. */
const asAddress = (blob: Blob) =>
  new Promise<string>((done, fail) => {
    const reader = new FileReader();
    reader.onload = () => done(String(reader.result));
    reader.onerror = () => fail(reader.error ?? new Error("it cannot be read"));
    reader.readAsDataURL(blob);
  });

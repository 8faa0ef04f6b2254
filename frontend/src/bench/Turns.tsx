import { type Turn, TURNS, useBench } from "./benchStore";

const WORDS: Record<Turn, string> = { picture: "picture", piece: "piece", section: "section", panel: "numbers" };

/** In a small window: which part of the bench is seen. */
export function Turns({ picture }: { picture: boolean }) {
  const { turn, setTurn } = useBench();
  return (
    <nav className="turns" aria-label="What is seen">
      {TURNS.filter((name) => picture || name !== "picture").map((name) => (
        <button key={name} type="button" className="chip" aria-pressed={turn === name} onClick={() => setTurn(name)}>
          {WORDS[name]}
        </button>
      ))}
    </nav>
  );
}

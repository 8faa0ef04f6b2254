import { Link } from "react-router";

export function Wordmark() {
  return (
    <Link to="/" className="wordmark" aria-label="Nebrel, to the shelf">
      <img src="/favicon.svg" width={26} height={26} alt="" />
      nebrel
    </Link>
  );
}

import { Link } from "react-router";
import { Wordmark } from "./Wordmark";

/** The head of a page beside the shelf: what it is, and the way back. */
export function PageHead({ title }: { title: string }) {
  return (
    <header className="page-head px-4">
      <Wordmark />
      <span className="quiet" aria-hidden="true">
        |
      </span>
      <strong>{title}</strong>
      <Link to="/" className="btn btn-plain ms-auto">
        To the shelf
      </Link>
    </header>
  );
}

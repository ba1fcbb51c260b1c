import { Link } from "react-router";

/** A view that cannot be shown: what happened, and what to do. */
export function Failure({ what, remedy }: { what: string; remedy: string }) {
  return (
    <main className="grid h-full place-content-center gap-3 text-center" role="alert">
      <h1 className="text-2xl">{what}</h1>
      <p className="text-mist">{remedy}</p>
      <Link to="/" className="text-brass underline">
        To the shelf
      </Link>
    </main>
  );
}

import { Link } from "react-router";
import { ProblemsCard } from "./ProblemsCard";
import { StorageCard } from "./StorageCard";

/** What is kept where, how much room it takes, and what went wrong of late. */
export function KeepingPage() {
  return (
    <div className="shelf">
      <header className="shelf-head">
        <Link to="/" aria-label="To the shelf" title="To the shelf">
          <img src="/mark.svg" alt="" className="shelf-mark" />
        </Link>
        <h1>Storage and problems</h1>
      </header>
      <main className="keeping">
        <StorageCard />
        <ProblemsCard />
      </main>
    </div>
  );
}

"""Change core files a little at a time and see whether a test notices: what survives is not held by any test.

Works on a copy. By default the files of the core that differ from the last published state are taken, and of each the
tests that import it; names of files can be given instead. `--most` bounds how many changes are tried, spread evenly.
"""

import argparse
import os
import shutil
import sqlite3
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).parent.parent
CORE = "src/nebrel/core/"
TIMEOUT_S = 300
CONFIG = """[cosmic-ray]
module-path = {files}
timeout = {timeout}
excluded-modules = []
test-command = "{python} -m pytest -x -q -p no:cacheprovider {tests}"

[cosmic-ray.distributor]
name = "local"
"""


def main() -> None:
    """Run it and print what survived; fails when something did."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("files", nargs="*", help="files of the core; the changed ones when left out")
    parser.add_argument("--most", type=int, default=60, help="changes to try")
    asked = parser.parse_args()
    files = asked.files or changed_files()
    if not files:
        print("No file of the core has changed.")
        return
    tests = sorted({test for file in files for test in tests_of(file)})
    print(f"{len(files)} files, held by {', '.join(tests) or 'no test'}", flush=True)
    with tempfile.TemporaryDirectory() as folder:
        survived, tried = mutated(Path(folder), files, tests or ["tests/core"], asked.most)
    print(f"{tried - len(survived)} of {tried} changes were noticed.")
    for each in survived:
        print(each)
    sys.exit(1 if survived else 0)


def changed_files() -> list[str]:
    """Files of the core that differ from where this branch left the published one, or else from the commit before."""
    for base in ("@{upstream}", "HEAD~1"):
        found = subprocess.run(
            ["git", "diff", "--name-only", base, "--", CORE], check=False, cwd=ROOT, capture_output=True, text=True
        )
        if found.returncode == 0 and found.stdout.strip():
            return [name for name in found.stdout.split() if name.endswith(".py") and (ROOT / name).exists()]
    return []


def tests_of(file: str) -> list[str]:
    """Tests of the core that import a file."""
    module = file.removeprefix("src/").removesuffix(".py").replace("/", ".")
    return [
        str(test.relative_to(ROOT))
        for test in sorted((ROOT / "tests" / "core").glob("test_*.py"))
        if f"from {module} import" in test.read_text(encoding="utf-8")
    ]


def mutated(folder: Path, files: list[str], tests: list[str], most: int) -> tuple[list[str], int]:
    """What survived, with the line that was changed, and how many changes were tried."""
    for name in ("src", "tests", "tools"):
        shutil.copytree(ROOT / name, folder / name, ignore=shutil.ignore_patterns("__pycache__", "static"))
    shutil.copy(ROOT / "pyproject.toml", folder)
    config = CONFIG.format(files=files, timeout=TIMEOUT_S, python=sys.executable, tests=" ".join(tests))
    (folder / "mutate.toml").write_text(config, encoding="utf-8")
    # Kernels are compiled anew for every change; the shared folder of them is left alone.
    environment = {**os.environ, "PYTHONPATH": str(folder / "src"), "NUMBA_CACHE_DIR": str(folder / "kernels")}

    def run(*command: str) -> str:
        done = subprocess.run(command, check=False, cwd=folder, env=environment, capture_output=True, text=True)
        if done.returncode:
            sys.exit(done.stdout + done.stderr)
        return done.stdout

    ray = str(Path(sys.executable).parent / "cosmic-ray")
    run(ray, "init", "mutate.toml", "session.sqlite")
    with sqlite3.connect(folder / "session.sqlite") as session:
        thin_out(session, most)
    run(ray, "baseline", "mutate.toml")
    run(ray, "exec", "mutate.toml", "session.sqlite")
    with sqlite3.connect(folder / "session.sqlite") as session:
        found = session.execute("select test_outcome, diff from work_results").fetchall()
    return [diff for outcome, diff in found if outcome == "SURVIVED"], len(found)


def thin_out(session: sqlite3.Connection, most: int) -> None:
    """Keep so many changes of all that can be made, spread evenly over the files."""
    known = "select job_id from mutation_specs order by module_path, start_pos_row, start_pos_col, operator_name"
    jobs = [job for (job,) in session.execute(known)]
    kept = set(jobs[:: max(1, -(-len(jobs) // most))])
    for job in jobs:
        if job not in kept:
            for table in ("mutation_specs", "work_items"):
                session.execute(f"delete from {table} where job_id = ?", (job,))


if __name__ == "__main__":
    main()

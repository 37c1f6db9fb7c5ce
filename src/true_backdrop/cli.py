"""The same work without a browser: cut, finish, audit. Needs no server and no database."""

from __future__ import annotations

import argparse
import json
import sys
import time
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from true_backdrop.core import codec, naming, pipeline
from true_backdrop.core.arrays import EncodedRGB
from true_backdrop.core.audit import Finding, audit
from true_backdrop.core.colour import encode_pixels
from true_backdrop.core.errors import RuleError, TrueBackdropError
from true_backdrop.core.picture import Picture
from true_backdrop.core.spec import SHIPPED, Spec, parse_spec
from true_backdrop.core.treatment import MATERIALS, CutSettings, Treatment, hands_of
from true_backdrop.jobs.whole_frames import for_whole_frames

DONE, SOME_FAILED, UNUSABLE = 0, 1, 2


def main(arguments: Sequence[str] | None = None) -> int:
    """Entry point of the console script."""
    args = _parser().parse_args(arguments)
    for_whole_frames()
    try:
        return int(args.run(args))
    except TrueBackdropError as fault:
        return _unusable(str(fault))
    except BrokenPipeError:
        return SOME_FAILED


def _unusable(text: str) -> int:
    print(text, file=sys.stderr)
    return UNUSABLE


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="true-backdrop", description=__doc__)
    commands = parser.add_subparsers(required=True, metavar="COMMAND")

    cut = commands.add_parser("cut", help="cut products out; writes straight-alpha RGBA PNG")
    cut.add_argument("--backdrop", type=Path, metavar="FILE", help="frame of the empty set; without one it is guessed")
    cut.add_argument("--silhouette", type=Path, metavar="FILE", help="the product against the lit backdrop, front lights off")
    cut.add_argument("--silhouettes", type=Path, metavar="DIR", help="silhouette frames with the stems of the frames")
    cut.add_argument("--silhouette-backdrop", type=Path, metavar="FILE", help="the empty set in that light; else guessed")
    cut.add_argument("--match", type=_match, default=None, metavar="auto|0..100", help="backdrop match (default: auto)")
    cut.add_argument("--material", choices=MATERIALS, default="auto")
    cut.add_argument("--out", type=Path, required=True, metavar="DIR")
    cut.add_argument("frames", nargs="+", type=Path, metavar="FRAME")
    cut.set_defaults(run=run_cut)

    finish = commands.add_parser("finish", help="cut and finish; writes the files an outlet gets, and their audit")
    finish.add_argument("--backdrop", type=Path, metavar="FILE", help="frame of the empty set; without one it is guessed")
    finish.add_argument("--spec", required=True, metavar="FILE-or-name", help=f"a JSON file, or one of {', '.join(SHIPPED)}")
    finish.add_argument("--treatment", type=Path, metavar="FILE", help="settings as JSON")
    finish.add_argument("--out", type=Path, required=True, metavar="DIR")
    finish.add_argument("frames", nargs="+", type=Path, metavar="FRAME")
    finish.set_defaults(run=run_finish)

    check = commands.add_parser("audit", help="hold finished files against a spec")
    check.add_argument("--spec", required=True, metavar="FILE-or-name")
    check.add_argument("files", nargs="+", type=Path, metavar="FILE")
    check.set_defaults(run=run_audit)
    return parser


def _match(text: str) -> int | None:
    if text == "auto":
        return None
    if text.isdigit() and 0 <= int(text) <= 100:
        return int(text)
    raise argparse.ArgumentTypeError(f"{text!r} is neither auto nor a whole number from 0 to 100")


def run_cut(args: argparse.Namespace) -> int:
    """DIR/<stem>.png for every frame, one JSON line each."""
    backdrop = _backdrop(args)
    settings = CutSettings(match=args.match, material=args.material)
    silhouette_of = _silhouettes(args)
    taken: dict[str, Path] = {}

    def one(path: Path) -> dict[str, Any]:
        began = time.monotonic()
        decision, cut = pipeline.cut_frame(_picture(path), backdrop, settings, silhouette_of(path))
        _write(args.out / _own_name(path, "png", taken), codec.encode_png(encode_pixels(cut.foreground), alpha=cut.alpha))
        return {**_judged(path, decision), "seconds": round(time.monotonic() - began, 3)}

    return _each(args.frames, one)


def run_finish(args: argparse.Namespace) -> int:
    """The finished files and their audit. A picture that fails its audit is written and makes the exit code 1."""
    spec = load_spec(args.spec)
    treatment = _treatment(args.treatment)
    backdrop = _backdrop(args)
    pattern = naming.NamePattern(spec.name_pattern)
    taken: dict[str, Path] = {}

    def one(path: Path) -> dict[str, Any]:
        began = time.monotonic()
        frame = _picture(path)
        box = treatment.cut.framing
        prepared = pipeline.prepare_guessed(frame, box) if backdrop is None else pipeline.prepare(frame, backdrop, box=box)
        prepared = prepared.seen_for(hands_of(treatment))
        decision = pipeline.decide_cut(
            prepared, treatment.cut, pipeline.propose_match(prepared, treatment.cut), hands_of(treatment)
        )
        square: EncodedRGB | None = pipeline.finish(frame, prepared.backdrop_proxy, decision.outline, treatment, spec)
        if square is None:
            raise RuleError(f"{path.name}: {decision.judgement.reasons[0]}; nothing was written")
        data, quality = pipeline.encode_for(square, spec)
        code, _, angle = naming.stem(path.name).partition("_")
        values: dict[str, str | int] = {
            "code": code,
            "angle": angle,
            "name": code,
            "outlet": spec.name,
            "number": args.frames.index(path) + 1,
        }
        name = _own_name(Path(pattern.fill(values)), spec.extension, taken, path)
        _write(args.out / name, data)
        findings = audit(data, name, spec)
        return {
            **_judged(path, decision),
            "file": name,
            "bytes": len(data),
            "quality": quality,
            **_audited(findings),
            "seconds": round(time.monotonic() - began, 3),
        }

    return _each(args.frames, one)


def run_audit(args: argparse.Namespace) -> int:
    """One JSON line a file; exit 1 if any rule fails, 2 if a file cannot be read."""
    spec = load_spec(args.spec)
    worst = DONE
    for path in args.files:
        try:
            findings = audit(_read(path), path.name, spec)
        except TrueBackdropError as fault:
            worst = _unusable(str(fault))
            continue
        _say({"file": str(path), **_audited(findings)})
        if not all(f.passed for f in findings):
            worst = max(worst, SOME_FAILED)
    return worst


def _each(paths: Sequence[Path], one: Callable[[Path], dict[str, Any]]) -> int:
    worst = DONE
    for path in paths:
        try:
            line = one(path)
        except TrueBackdropError as fault:
            text = str(fault)
            print(text if path.name in text else f"{path.name}: {text}", file=sys.stderr)
            worst = SOME_FAILED
            continue
        _say(line)
        if line.get("passed") is False:
            worst = SOME_FAILED
    return worst


def _judged(path: Path, decision: pipeline.Decision) -> dict[str, Any]:
    judgement = decision.judgement
    return {"frame": str(path), "verdict": judgement.verdict.value, "reasons": list(judgement.reasons), "match": decision.match}


def _audited(findings: Sequence[Finding]) -> dict[str, Any]:
    return {
        "passed": all(f.passed for f in findings),
        "audit": [{"rule": f.rule, "wanted": f.wanted, "found": f.found, "passed": f.passed} for f in findings],
    }


def _own_name(path: Path, extension: str, taken: dict[str, Path], source: Path | None = None) -> str:
    """The output name; two inputs that would share one are told apart by a number."""
    base = naming.safe_file_name(naming.stem(path.name) if source is None else path.name)
    name, n = f"{base}.{extension}", 2
    while name in taken:
        name, n = f"{base}-{n}.{extension}", n + 1
    taken[name] = source or path
    return name


def load_spec(text: str) -> Spec:
    """A shipped spec by name, or one from a JSON file."""
    if text in SHIPPED:
        return SHIPPED[text]
    path = Path(text)
    if not path.is_file():
        raise RuleError(f"{text}: neither a file nor a shipped spec; there are {', '.join(SHIPPED)}")
    return parse_spec(_read(path).decode("utf-8", "replace"))


def _treatment(path: Path | None) -> Treatment:
    if path is None:
        return Treatment()
    try:
        return Treatment.model_validate_json(_read(path))
    except ValidationError as fault:
        said = "; ".join(f"{'.'.join(map(str, e['loc']))}: {e['msg']}" for e in fault.errors())
        raise RuleError(f"{path.name}: the treatment makes no sense: {said}") from fault


def _backdrop(args: argparse.Namespace) -> Picture | None:
    return None if args.backdrop is None else _picture(args.backdrop)


def _silhouettes(args: argparse.Namespace) -> Callable[[Path], tuple[Picture, Picture | None] | None]:
    """The silhouette frame for each frame, with the empty set in its light."""
    if args.silhouette and args.silhouettes:
        raise RuleError("give --silhouette for one frame or --silhouettes for many, not both")
    if args.silhouette and len(args.frames) > 1:
        raise RuleError("--silhouette serves one frame; for several give --silhouettes DIR with files of the same stems")
    if args.silhouette_backdrop and not (args.silhouette or args.silhouettes):
        raise RuleError("--silhouette-backdrop needs --silhouette or --silhouettes")
    empty = _picture(args.silhouette_backdrop) if args.silhouette_backdrop else None
    if args.silhouettes and not args.silhouettes.is_dir():
        raise RuleError(f"{args.silhouettes}: not a folder; give the folder with the silhouette frames")
    by_stem = {path.stem: path for path in sorted(args.silhouettes.iterdir())} if args.silhouettes else {}

    def of(frame: Path) -> tuple[Picture, Picture | None] | None:
        path = args.silhouette or by_stem.get(frame.stem)
        if path is None and args.silhouettes:
            raise RuleError(
                f"{frame.name}: no silhouette frame with this stem in {args.silhouettes}; add it or leave the frame out"
            )
        return None if path is None else (_picture(path), empty)

    return of


def _picture(path: Path) -> Picture:
    return codec.decode(_read(path), path.name)


def _read(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError as fault:
        raise RuleError(f"{path.name}: cannot be read ({fault.strerror or fault})") from fault


def _write(path: Path, data: bytes) -> None:
    """Whole or not at all: a temporary name first."""
    part = path.with_name(f".{path.name}.part")
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        part.write_bytes(data)
        part.replace(path)
    except OSError as fault:
        part.unlink(missing_ok=True)
        raise RuleError(
            f"{path.name}: cannot be written ({fault.strerror or fault}); free some space or choose another folder"
        ) from fault


def _say(line: dict[str, Any]) -> None:
    print(json.dumps(line, ensure_ascii=False), flush=True)


if __name__ == "__main__":
    sys.exit(main())

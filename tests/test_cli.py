"""The command line, as a process."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from tests.scenes import jpeg, png, scene


def cli(*arguments: object) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "true_backdrop.cli", *map(str, arguments)], capture_output=True, text=True, check=False
    )


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    made = scene()
    (tmp_path / "HT-1_front.jpg").write_bytes(jpeg(made.frame))
    (tmp_path / "backdrop.png").write_bytes(png(made.backdrop))
    (tmp_path / "broken.jpg").write_bytes(jpeg(made.frame)[:2000])
    return tmp_path


def test_cut_writes_straight_alpha_at_the_frames_own_size(folder: Path) -> None:
    done = cli(
        "cut",
        "--backdrop",
        folder / "backdrop.png",
        "--out",
        folder / "out",
        folder / "HT-1_front.jpg",
        folder / "broken.jpg",
        folder / "gone.jpg",
    )
    assert done.returncode == 1
    line = json.loads(done.stdout)
    assert set(line) == {"frame", "verdict", "reasons", "match", "seconds"} and line["verdict"] == "clean"
    assert "broken.jpg" in done.stderr and "gone.jpg" in done.stderr
    image = Image.open(folder / "out" / "HT-1_front.png")
    assert (image.mode, image.size) == ("RGBA", (720, 480))
    alpha = np.asarray(image)[..., 3] / 255
    assert float(((alpha - scene().alpha) ** 2).mean()) < 6e-4
    assert [p.name for p in (folder / "out").iterdir()] == ["HT-1_front.png"]


def test_cut_takes_a_match_and_a_material(folder: Path) -> None:
    done = cli(
        "cut",
        "--backdrop",
        folder / "backdrop.png",
        "--match",
        35,
        "--material",
        "solid",
        "--out",
        folder,
        folder / "HT-1_front.jpg",
    )
    assert done.returncode == 0 and json.loads(done.stdout)["match"] == 35
    assert (
        cli("cut", "--backdrop", folder / "backdrop.png", "--match", 135, "--out", folder, folder / "HT-1_front.jpg").returncode
        == 2
    )


def test_finish_and_audit(folder: Path) -> None:
    (folder / "treatment.json").write_text('{"frame": {"coverage": 0.8}}')
    done = cli(
        "finish",
        "--backdrop",
        folder / "backdrop.png",
        "--spec",
        "pennywharf",
        "--treatment",
        folder / "treatment.json",
        "--out",
        folder / "out",
        folder / "HT-1_front.jpg",
    )
    assert done.returncode == 0, done.stderr + done.stdout
    line = json.loads(done.stdout)
    assert line["file"] == "HT-1_front.jpg" and line["passed"] and line["bytes"] <= 153_600
    finished = folder / "out" / "HT-1_front.jpg"
    assert cli("audit", "--spec", "pennywharf", finished).returncode == 0
    wrong = cli("audit", "--spec", "kiosk-nine", finished)
    assert wrong.returncode == 1
    assert [r["rule"] for r in json.loads(wrong.stdout)["audit"] if not r["passed"]] == ["pixel size"]
    assert cli("audit", "--spec", "pennywharf", folder / "broken.jpg").returncode == 2


def test_unusable_input_is_said(folder: Path) -> None:
    for spec, said in (("nowhere", "there are pennywharf"), (str(folder / "backdrop.png"), "makes no sense")):
        done = cli("audit", "--spec", spec, folder / "HT-1_front.jpg")
        assert done.returncode == 2 and said in done.stderr
    done = cli("cut", "--backdrop", folder / "broken.jpg", "--out", folder, folder / "HT-1_front.jpg")
    assert done.returncode == 2 and "broken.jpg" in done.stderr
    small = cli("cut", "--backdrop", folder / "backdrop.png", "--out", folder / "out", folder / "small.png")
    assert small.returncode == 1


def test_frames_that_do_not_fit_are_named_and_the_rest_go_on(folder: Path) -> None:
    (folder / "small.png").write_bytes(png(scene(size=(240, 360)).frame))
    done = cli(
        "cut", "--backdrop", folder / "backdrop.png", "--out", folder / "out", folder / "small.png", folder / "HT-1_front.jpg"
    )
    assert done.returncode == 1
    assert "small.png" in done.stderr and "720 x 480" in done.stderr
    assert json.loads(done.stdout)["frame"].endswith("HT-1_front.jpg")


def test_without_a_backdrop_frame_it_is_guessed_and_never_called_clean(folder: Path) -> None:
    done = cli("cut", "--out", folder / "out", folder / "HT-1_front.jpg")
    assert done.returncode == 0, done.stderr
    line = json.loads(done.stdout)
    assert line["verdict"] == "look_again" and "guessed backdrop" in line["reasons"][-1]
    alpha = np.asarray(Image.open(folder / "out" / "HT-1_front.png"))[..., 3] / 255
    assert float(((alpha - scene().alpha) ** 2).mean()) < 3e-3


@pytest.fixture
def dark(folder: Path) -> Path:
    """A product whose upper part is as light as the backdrop, and its silhouette with the empty set in that light."""
    from tests.core.test_silhouette import dark_frames, white_on_white

    made = white_on_white("box")
    silhouette, empty = dark_frames(made)
    (folder / "dark").mkdir()
    (folder / "HT-2_front.png").write_bytes(png(made.frame))
    (folder / "backdrop.png").write_bytes(png(made.backdrop))
    (folder / "dark" / "HT-2_front.png").write_bytes(png(silhouette.pixels))
    (folder / "dark-empty.png").write_bytes(png(empty.pixels))
    return folder


def test_silhouettes_make_white_on_white_whole(dark: Path) -> None:
    usual = ("cut", "--backdrop", dark / "backdrop.png", "--out", dark / "out")
    frame, truth = dark / "HT-2_front.png", scene("box").alpha
    errors = {}
    for name, more in {
        "without": (),
        "one": ("--silhouette", dark / "dark" / "HT-2_front.png", "--silhouette-backdrop", dark / "dark-empty.png"),
        "many": ("--silhouettes", dark / "dark", "--silhouette-backdrop", dark / "dark-empty.png"),
        "guessed": ("--silhouettes", dark / "dark"),
    }.items():
        done = cli(*usual, *more, frame)
        assert done.returncode == 0, done.stderr
        alpha = np.asarray(Image.open(dark / "out" / "HT-2_front.png"))[..., 3] / 255
        errors[name] = float(((alpha - truth) ** 2).mean())
    assert errors["one"] == errors["many"] < 1e-3
    assert errors["guessed"] < 2e-3
    assert errors["without"] > 20 * errors["one"]


def test_silhouette_options_that_make_no_sense_are_told(dark: Path) -> None:
    usual = ("cut", "--backdrop", dark / "backdrop.png", "--out", dark / "out")
    frame, silhouette = dark / "HT-2_front.png", dark / "dark" / "HT-2_front.png"
    for more, words in (
        (("--silhouette", silhouette, frame, dark / "HT-1_front.jpg"), "serves one frame"),
        (("--silhouette", silhouette, "--silhouettes", dark / "dark", frame), "not both"),
        (("--silhouettes", dark / "nowhere", frame), "not a folder"),
        (("--silhouette-backdrop", dark / "dark-empty.png", frame), "needs --silhouette"),
    ):
        done = cli(*usual, *more)
        assert done.returncode == 2 and words in done.stderr and not (dark / "out").exists()
    done = cli(*usual, "--silhouettes", dark / "dark", dark / "HT-1_front.jpg", frame)
    assert done.returncode == 1 and "no silhouette frame with this stem" in done.stderr
    assert [path.name for path in (dark / "out").iterdir()] == ["HT-2_front.png"]


def test_a_patterned_backdrop_gives_a_proposal(folder: Path) -> None:
    from tests.core.test_patterned import frame_on

    picture, _ = frame_on("checks", "disc", (0.1, 0.2, 0.6))
    (folder / "plate.png").write_bytes(png(picture.pixels))
    done = cli("cut", "--out", folder / "out", folder / "plate.png")
    line = json.loads(done.stdout)
    assert line["verdict"] == "look_again" and any("only a proposal" in reason for reason in line["reasons"])

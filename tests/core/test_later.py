"""A result worked out when first asked for: once, by whoever asks first, and without keeping what it was made from."""

import gc
import threading
import weakref

import pytest

from tests.scenes import scene
from true_backdrop.core import pipeline
from true_backdrop.core.cut.verdict import Verdict
from true_backdrop.core.later import Later
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings


class Large:
    pass


def test_several_threads_get_one_result_that_was_worked_out_once():
    made, together = [], threading.Barrier(8)
    later = Later(lambda: made.append(1) or object())
    found = []

    def ask():
        together.wait()
        found.append(later.get())

    threads = [threading.Thread(target=ask) for _ in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert made == [1]
    assert len({id(result) for result in found}) == 1


def test_what_it_was_made_from_is_let_go():
    large = Large()
    alive = weakref.ref(large)
    later = Later(lambda large=large: 3 if large else 0)
    del large
    gc.collect()
    assert alive() is not None
    assert later.get() == 3
    gc.collect()
    assert alive() is None
    assert later.get() == 3


def test_work_that_failed_is_tried_again():
    tries = []

    def work():
        tries.append(1)
        if len(tries) == 1:
            raise OSError("no room")
        return "made"

    later = Later(work)
    with pytest.raises(OSError, match="no room"):
        later.get()
    assert later.get() == "made"


def test_the_outline_does_not_wait_for_the_verdict(monkeypatch):
    made, judged = scene("disc"), []
    judge = pipeline.judge
    monkeypatch.setattr(pipeline, "judge", lambda *asked: judged.append(1) or judge(*asked))
    decision, cut_out = pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), CutSettings())
    assert cut_out.alpha.max() == 1
    assert judged == []
    assert decision.judgement.verdict is Verdict.CLEAN
    assert decision.judgement is decision.judgement
    assert judged == [1]

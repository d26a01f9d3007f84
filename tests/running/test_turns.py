"""Threads are shared by person: a flood of one's own requests waits for itself; whoever comes beside it does not."""

import threading
from collections import Counter, deque

from flask import Flask
from hypothesis import given
from hypothesis import strategies as st

from zesty_lark.running.turns import A_FLOOD, FairTurns
from zesty_lark.web.shared.turns import teller

WAIT_SECONDS = 120.0


class Asked:
    """A request that is worked on until it is let go."""

    def __init__(self, who: str, number: int = 0) -> None:
        self.who, self.number = who, number
        self.begun, self.let_go, self.done = threading.Event(), threading.Event(), threading.Event()

    def service(self) -> None:
        self.begun.set()
        assert self.let_go.wait(WAIT_SECONDS)
        self.done.set()

    def cancel(self) -> None:
        self.done.set()


def test_a_flood_of_one_person_leaves_threads_for_the_others() -> None:
    turns = FairTurns(lambda asked: asked.who, 2)
    turns.set_thread_count(6)
    flood = [Asked("isa", number) for number in range(A_FLOOD)]
    for each in flood:
        turns.add_task(each)
    assert all(each.begun.wait(WAIT_SECONDS) for each in flood[:2])
    beside = Asked("bryn")
    turns.add_task(beside)
    assert beside.begun.wait(WAIT_SECONDS)
    assert not any(each.begun.is_set() for each in flood[2:])
    for each in (beside, *flood):
        each.let_go.set()
    assert all(each.done.wait(WAIT_SECONDS) for each in flood)
    turns.shutdown(timeout=WAIT_SECONDS)


def test_whoever_has_more_waiting_than_a_browser_sends_has_one_thread() -> None:
    turns = FairTurns(lambda asked: asked.who, 3).queue
    for number in range(A_FLOOD + 1):
        turns.append(Asked("isa", number))
    taken = [turns.take()]
    assert len(turns) == A_FLOOD and not turns.ready()
    turns.append(Asked("bryn"))
    assert turns.take()[0] == "bryn", "others are served beside it"
    turns.done("isa")
    taken.append(turns.take())
    while turns.ready():
        taken.append(turns.take())
    assert len(taken) == 4, "fewer wait now: the usual share"


def test_at_the_end_what_waits_is_let_go() -> None:
    turns = FairTurns(lambda asked: asked.who, 1)
    waiting = [Asked(who, number) for who in "ab" for number in range(3)]
    for each in waiting:
        turns.add_task(each)
    turns.shutdown(timeout=0)
    assert all(each.done.is_set() for each in waiting)


@given(st.lists(st.one_of(st.sampled_from("aaabc"), st.none()), max_size=60), st.integers(1, 4))
def test_each_waits_in_order_and_nobody_has_more_than_a_share(moves: list[str | None], most: int) -> None:
    turns = FairTurns(lambda asked: asked[0], most).queue
    asked: Counter[str] = Counter()
    served: Counter[str] = Counter()
    at_work: deque[str] = deque()
    for who in moves:
        if who is not None:
            turns.append((who, asked[who]))
            asked[who] += 1
        elif turns.ready():
            whose, (_, number) = turns.take()
            waiting = {one: asked[one] - served[one] for one in asked if asked[one] > served[one]}
            room = [one for one, count in waiting.items() if at_work.count(one) < (1 if count >= A_FLOOD else most)]
            assert whose in room and at_work.count(whose) == min(map(at_work.count, room)) and number == served[whose]
            served[whose] += 1
            at_work.append(whose)
        elif at_work:
            turns.done(at_work.popleft())
    assert len(turns) == asked.total() - served.total()


def test_whose_a_request_is_stands_in_a_cookie_this_shop_has_signed() -> None:
    app = Flask(__name__)
    app.config.update(SECRET_KEY="of a test", SESSION_COOKIE_NAME="lark_session")
    sign = app.session_interface.get_signing_serializer(app)  # type: ignore[attr-defined]
    whose = teller(app)
    signed = sign.dumps({"person": 7})
    assert whose(f"other=1; lark_session={signed}", "10.0.0.1") == "person 7"
    for cookies in ("", "lark_session=", f"lark_session={signed}x", f"lark_session={sign.dumps({})}", "=;;\x00"):
        assert whose(cookies, "10.0.0.1") == "10.0.0.1"

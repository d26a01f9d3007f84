"""The acts over HTTP, signed in: the same functions that the pages call, with the rights of who asks."""

import json
from collections.abc import Callable
from typing import Any

from flask import Response, jsonify, request
from flask.typing import ResponseReturnValue

from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.witnesses import AskedAbout
from zesty_lark.shopfloor import acts, long_work
from zesty_lark.shopfloor.acts.acting import Acting, InShop
from zesty_lark.shopfloor.acts.jobs import TakenInWrong
from zesty_lark.shopfloor.rights import NotYours
from zesty_lark.store import job_states, jobs, part_plans, set_ups, shop, shoplog
from zesty_lark.web.api.views import blueprint
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.acting import in_shop
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.wording import now

BEHIND = (shoplog.BehindError, jobs.JobChanged, part_plans.NewerVersion, set_ups.LaidOutMeanwhile)


@blueprint.get("/acts")
@access()
def listed_acts() -> ResponseReturnValue:
    """Every act, and who may do it; "to_the_job" is none for those on the shop."""
    return jsonify({name: _told(act) for name, act in acts.EVERY_ACT.items()})


@blueprint.get("/acts/<name>")
@access()
def described_act(name: str) -> ResponseReturnValue:
    """What an act needs, as a JSON Schema."""
    if name not in acts.EVERY_ACT:
        return _unknown(name)
    return jsonify(_told(acts.EVERY_ACT[name]) | {"input": acts.schema(name)})


@blueprint.post("/jobs/<number>/acts/<name>")
@access(job="look")
def do_act(number: str, name: str) -> ResponseReturnValue:
    """Do an act on a job: one JSON object with what it needs, its ``entry_id``, and in ``seen`` the number of the
    newest entry that was seen; sent with the page's token in X-CSRFToken. Sent twice it is done once."""
    if name not in acts.ACTS:
        return _unknown(name)
    refused = _refused(name, _on_job)
    if refused is not None:
        return refused
    return jsonify({"job": number, "newest": job_states.state_of(database.session(), guard.job()).last_seq})


@blueprint.post("/acts/<name>")
@access()
def do_shop_act(name: str) -> ResponseReturnValue:
    """Do an act on the shop: one JSON object with what it needs and, where it is logged, its ``entry_id``."""
    if name not in acts.SHOP_ACTS:
        return _unknown(name)
    return _refused(name, lambda given, _seen: in_shop(entry_id_given=given)) or jsonify({"done": name})


def _on_job(entry_id: str, seen: int | None) -> Acting:
    return Acting(database.session(), guard.person(), guard.job(), now(), entry_id, seen, screen=guard.screen())


def _refused(name: str, who: Callable[[str, int | None], Acting | InShop]) -> ResponseReturnValue | None:
    """Do an act; return why not, as the status and a sentence say it, where it was not done."""
    if name not in acts.EVERY_ACT:
        return _unknown(name)
    try:
        entry_id, seen, given = _sent()
        acts.do(name, who(entry_id, seen), given)
    except InputError as error:
        return jsonify({"error": str(error), "field": error.field}), 422
    except NotYours as error:
        return jsonify({"error": str(error)}), 403
    except BEHIND as error:
        return jsonify({"error": str(error)}), 409
    except shop.ChangedMeanwhile as error:
        return jsonify({"error": str(error), "version": error.version}), 409
    except shop.DoesNotFit as error:
        return jsonify({"error": str(error), "fields": error.said}), 422
    except AskedAbout as error:
        return jsonify({"error": str(error), "sure": error.about}), 422
    except TakenInWrong as error:
        return jsonify({"error": str(error), "fields": error.fields}), 422
    except long_work.StillWorking as working:
        told = {"error": "Its plan is being worked out; ask again.", "working_s": round(working.seconds, 1)}
        return jsonify(told), 503, {"Retry-After": "1"}
    except long_work.Crowded as error:
        return jsonify({"error": str(error)}), 429, {"Retry-After": "5"}
    except (LogError, ValueError, long_work.TooLong) as error:
        return jsonify({"error": str(error)}), 422
    database.session().flush()
    return None


def _sent() -> tuple[str, int | None, str]:
    """Under which id it was sent, after what was seen, and what is left of the object."""
    sent = request.get_json(silent=True)
    if not isinstance(sent, dict):
        raise InputError("input", "input must be one JSON object")
    entry_id, seen = sent.pop("entry_id", ""), sent.pop("seen", None)
    if not isinstance(entry_id, str) or not (seen is None or type(seen) is int):
        raise InputError("entry_id", "entry_id is text, and seen the number of the newest entry that was seen")
    return entry_id, seen, json.dumps(sent)


def _told(act: acts.Act) -> dict[str, Any]:
    does = (act.signature_of.__doc__ or "").split("\n\n")[0]
    return {"does": " ".join(does.split()), "who": sorted(act.roles), "to_the_job": act.use}


def _unknown(name: str) -> tuple[Response, int]:
    return jsonify({"error": f"there is no act “{name}”", "field": "name"}), 404

"""The set-up as data, and its checks: each rule a named finding - pass, caution or stop - with its reason and remedy.

The same rules grade practice scenes.
"""

from zesty_lark.core.setup.rulebook import holding, table, wheel
from zesty_lark.core.setup.rulebook.data import Finding, SetUpData, SetUpReport

__all__ = ["Finding", "SetUpData", "SetUpReport", "setup_check"]

RULES = (*wheel.RULES, *holding.RULES, *table.RULES)


def setup_check(*, setup: SetUpData) -> SetUpReport:
    """Check a set-up against every rule of setting up and holding.

    Raises
    ------
    InputError
        If the wheel's marking is missing.
    """
    findings = [finding for rule in RULES for finding in rule(setup)]
    order = {"stop": 0, "caution": 1, "pass": 2}
    findings.sort(key=lambda finding: order[finding.level])
    return SetUpReport(findings[0].level, findings)

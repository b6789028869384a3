"""What the simulation found, as findings: one for each control."""

from __future__ import annotations

from collections.abc import Iterator

from fjeld.check.finding import Finding, looks_at
from fjeld.derive.memo import Remember, always
from fjeld.derive.plan import Plan
from fjeld.practice import rules
from fjeld.prove.proof import prove
from fjeld.quantities import Fails, NotKnown, Passes


@looks_at(rules.CONTROL_PROVEN)
def check(plan: Plan, remember: Remember = always) -> Iterator[Finding]:
    """One finding for each control that is wired."""
    for control, proof in prove(plan, remember).items():
        if not proof.loads:
            continue
        if proof.proven and proof.assumes:
            words = f"{control} does what was meant if {' and '.join(proof.assumes)}"
            rule = plan.practice.rule(rules.CONTROL_PROVEN)
            yield Finding(rule, (control,), words, NotKnown(proof.assumes[0]), "proof", grade="ask")
        elif proof.proven:
            how = "sampled" if proof.sampled else f"all {proof.states} states"
            yield Finding(
                plan.practice.rule(rules.CONTROL_PROVEN),
                (control,),
                f"{control} does what was meant: {how}",
                Passes(),
                "proof",
            )
        else:
            rule = plan.practice.rule(rules.CONTROL_PROVEN)
            words = f"{control}: {proof.reasons[0]}"
            if proof.faint:
                # Joined as it should be: nothing is live that was not meant to be, but it does not work.
                words += "; all is joined as meant, and too much is lost on the way"
            yield Finding(rule, (control,), words, Fails(), "proof", grade="breach" if proof.faint else None)

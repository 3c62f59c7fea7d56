"""Small models drawn at random, for what can only be computed exactly where there are few causes and checks."""

import numpy as np

from humble_courier.catalog.diagnose_entries import CauseEntry, CheckEntry, Mend, Under
from humble_courier.diagnose.model import Model, model_of

PLACES = ("program", "port", "adapter", "wire", "device", "speech")


def small_model(random: np.random.Generator, causes: int, checks: int) -> Model:
    """So many causes and checks; each check touches some of the causes, every third may mend."""
    made = {
        f"cause-{c}": CauseEntry(
            id=f"cause-{c}", source="invented", place=str(random.choice(PLACES)), says=f"cause {c}",  # type: ignore[arg-type]
            weight=float(random.uniform(0.5, 10)), effect="dead", mend=Mend("mend", float(random.uniform(0.5, 20))),
        )
        for c in range(causes)
    }  # fmt: skip
    looks = {}
    for k in range(checks):
        touched = [str(c) for c in random.choice(list(made), max(1, causes // 2), replace=False)]
        share = float(random.uniform(0.7, 0.95))
        looks[f"check-{k}"] = CheckEntry(
            id=f"check-{k}", source="invented", place="device", ask="?", minutes=float(random.uniform(0.1, 4)),
            outcomes={"no": "no", "yes": "yes"}, otherwise={"no": 0.95}, ends=["yes"] if k % 3 == 2 else [],
            under=[Under({"yes": share}, causes=touched)],
        )  # fmt: skip
    return model_of(made, looks, (), ())

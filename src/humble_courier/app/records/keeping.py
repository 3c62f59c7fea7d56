"""Keeping what a command has proven."""

from humble_courier.app.folders import RecordsAt
from humble_courier.app.link.proof import make_proof
from humble_courier.app.link.proof_run import ProofRun, kept_facts


def keep_run(at: RecordsAt, name: str, run: ProofRun) -> int:
    """Keep the proof of a run, with its link where that is not kept yet; returns its number. Raises MachineRefused."""
    from humble_courier.records.store import Store

    store, model = Store(at.folder, at.url), run.link.model
    try:
        called = model.name or name
        same = next((id_ for id_, known in store.links() if known == called and store.link(id_) == model), None)
        proof = make_proof(run.link, run.evidence, run.utterances, kept_facts(run), run.clock.wall())
        return store.add_proof(same or store.save_link(model, called), proof)
    finally:
        store.close()

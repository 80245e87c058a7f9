"""Deliveries that wait for the client, and the approval in the ledger."""

from __future__ import annotations

from django.utils import timezone

from deliveries.ledger import ledger_of
from deliveries.models import Delivery
from deliveries.models import State as DeliveryState
from server_tests.base import plain
from server_tests.test_showings import ShowingCase
from takes.models import Take


class ApprovalTest(ShowingCase):
    def order(self, take: Take | None = None, after: bool = True) -> Delivery:
        wanted = {"spec": {}, "after_approval": after}
        (made,) = self.send("post", f"/takes/{(take or self.take).id}/files", wanted).json()
        return Delivery.objects.get(id=made["id"])

    def test_a_delivery_waits_for_exactly_its_steps(self) -> None:
        showing = self.make()
        waiting = self.order()
        self.assertEqual((waiting.state, waiting.awaits_approval), (DeliveryState.PAUSED, True))
        self.take.save_steps([plain(3)])
        other = self.order()
        self.answer(showing, "changes")
        waiting.refresh_from_db()
        self.assertEqual(waiting.state, DeliveryState.PAUSED)
        self.answer(showing, "approved")
        waiting.refresh_from_db()
        other.refresh_from_db()
        self.assertEqual((waiting.state, waiting.awaits_approval), (DeliveryState.QUEUED, False))
        self.assertEqual(other.state, DeliveryState.PAUSED)
        self.assertIn("other steps", other.message)
        self.take.save_steps([plain(2)])
        self.assertEqual(self.order().state, DeliveryState.QUEUED)
        self.answer(showing, "changes")
        self.assertEqual(self.order().state, DeliveryState.PAUSED)

    def test_it_can_be_let_go_on_without(self) -> None:
        waiting = self.order()
        self.send("post", "/queue/resume", {"ids": [str(waiting.id)]})
        waiting.refresh_from_db()
        self.assertEqual((waiting.state, waiting.awaits_approval), (DeliveryState.QUEUED, False))

    def test_the_ledger_has_the_approval_with_name_and_time(self) -> None:
        showing = self.make()
        self.answer(showing, "approved")
        delivery = self.order()
        (entry,) = ledger_of(self.job, [delivery]).files
        assert entry.approved is not None
        self.assertEqual(
            (entry.approved.name, entry.approved.showing, entry.approved.round), ("Ines Marlow", "First look", 1)
        )
        self.assertLess((timezone.now() - entry.approved.given).total_seconds(), 60)
        self.take.save_steps([plain(3)])
        (entry,) = ledger_of(self.job, [self.order()]).files
        self.assertIsNone(entry.approved)

"""Forms of the selling desk."""

from __future__ import annotations

from botin.core.selling.road import Stop
from botin.desk.selling.changes import Change
from botin.desk.selling.listings import Offering
from botin.desk.selling.roads import Posting
from botin.web.fields import DayField, MoneyField, OnceForm, TicksField, WholeField, WordField


class GivenForm(OnceForm):
    """Commons given away together, or which gift is taken back."""

    back = WordField(most=80)
    copies = WordField(most=20_000)
    to = WordField(most=120)
    day = DayField()

    def ids(self) -> list[int]:
        """Return the copies."""
        return [int(text) for text in self.copies.text.split(",") if text.isascii() and text.isdecimal()]


class OfferForm(OnceForm):
    """Copies, or a sealed box, that are offered; or were sold without being offered."""

    copy = TicksField()
    box = WholeField()
    sold = WordField()
    channel = WordField(most=60)
    ask = MoneyField()
    floor = MoneyField()
    day = DayField()
    lower = WholeField()
    every = WholeField()
    title = WordField()
    words = WordField()

    def offering(self, copies: tuple[int, ...], currency: str) -> Offering:
        """Return what is offered.

        Raises
        ------
        BotinError
            When something of it cannot be read.
        """
        return Offering(
            channel=self.channel.text, ask=self.ask.money(currency), floor=self.floor.money(currency), copies=copies,
            day=self.day.or_today(), lower_permille=10 * self.lower.whole(), every_days=self.every.whole(7),
            title=self.title.text, words=self.words.text, box=self.box.row_id(),
        )  # fmt: skip


class SaleForm(OnceForm):
    """What was sold: where, to whom, when, for how much."""

    channel = WordField(most=60)
    ask = MoneyField()
    fee = MoneyField()
    shipping = MoneyField()
    buyer = WordField(most=120)
    address = WordField(most=2_000)
    day = DayField()
    listing = WholeField()


class ListingForm(OnceForm):
    """A change of a listing, its end, or an offer for it."""

    sold = WordField()
    end = WordField()
    refuse = WholeField()
    offer = MoneyField()
    by = WordField(most=60)
    ask = MoneyField()
    floor = MoneyField()


class MoveForm(OnceForm):
    """The next stop of a sale, or one step back."""

    undo = WordField()
    to = WordField()
    day = DayField()
    service = WordField(most=80)
    tracking = WordField(most=80)
    postage = MoneyField()
    insurance = MoneyField()

    def stop(self) -> Stop:
        """Return where it goes; sold, which goes nowhere, for what is no stop."""
        return Stop(self.to.text) if self.to.text in set(Stop) else Stop.SOLD

    def posting(self, currency: str) -> Posting:
        """Return how it is sent.

        Raises
        ------
        BotinError
            When an amount cannot be read.
        """
        return Posting(
            self.service.text, self.tracking.text, self.postage.money(currency), self.insurance.money(currency)
        )


class ParcelForm(OnceForm):
    """A parcel that is begun, with what else goes into it; or its address."""

    address = WordField(most=2_000)
    begin = WordField()
    together = TicksField(name="with")


class PackForm(OnceForm):
    """Which steps of packing are done."""

    grams = WholeField()
    weigh = WordField()
    done = TicksField()
    step = WordField()
    then = WordField()


class BesideForm(OnceForm):
    """What happens beside the road: a change, the payout, feedback, or that a sale is cancelled."""

    cancel = WordField()
    undo_change = WholeField()
    payout = WordField()
    payout_on = DayField()
    feedback = WordField()
    given = WordField()
    got = WordField(most=60)
    kind = WordField(most=60)
    change_on = DayField()
    amount = MoneyField()
    fee_back = MoneyField()
    why = WordField(most=300)

    def change(self, currency: str) -> Change:
        """Return the change.

        Raises
        ------
        BotinError
            When the day or an amount cannot be read.
        """
        amount, fee = self.amount.money(currency), self.fee_back.money(currency)
        return Change(self.kind.text, self.change_on.or_today(), amount, self.why.text, fee)

"""Forms of the grading desk."""

from __future__ import annotations

from botin.core.grading.steps import Step
from botin.desk.grading.billing import Bill
from botin.desk.grading.drafts import Form as Filled
from botin.desk.grading.memberships import Given, Joining
from botin.desk.grading.moves import Told
from botin.web.fields import (
    DayField,
    MoneyField,
    OnceForm,
    PlannedField,
    TicksField,
    TypedForm,
    WholeField,
    WordField,
    read_money,
)
from botin.web.typed import by_line


class BeginForm(OnceForm):
    """An order that is begun in a tier."""

    tier = WordField(most=120)


class LineForm(TypedForm):
    """A line of an order's form: out of it, or further up or down."""

    remove = WholeField()
    line = WholeField()
    place = WholeField()


class OrderForm(TypedForm):
    """The form of a draft."""

    move = WordField(most=80)
    then = WordField()
    tier = WordField(most=120)
    phone = WordField(most=60)
    agreed = WordField()
    share_by = WordField(most=20)
    item = WordField(most=60)
    parcel = WordField(most=200)
    note = WordField()
    voucher = WholeField()

    def filled(self, currency: str) -> Filled:
        """Return it with the declared value of each line.

        Raises
        ------
        BotinError
            When a value cannot be read.
        """
        return Filled(
            phone=self.phone.text, agreed=bool(self.agreed.text), share_by=self.share_by.text, item=self.item.text,
            parcel=self.parcel.text, note=self.note.text, voucher=self.voucher.row_id(),
            declared={line: read_money(text, currency) for line, text in by_line("declared").items()},
        )  # fmt: skip

    def moved(self) -> tuple[int, int, int]:
        """Return order, line and the place it is put at, as the button beside it says."""
        order, line, place = (int(part) if part.isdecimal() else 0 for part in f"{self.move.text}::".split(":")[:3])
        return order, line, place


class MoveForm(OnceForm):
    """The next step of an order."""

    to = WordField()
    already = WordField()
    day = DayField()
    tracking = WordField(most=80)
    postage = MoneyField()
    insurance = MoneyField()
    due_on = PlannedField()
    pay_on = PlannedField()
    number = WordField(most=60)

    def step(self) -> Step:
        """Return where it goes; draft, which goes nowhere, for what is no step."""
        return Step(self.to.text) if self.to.text in set(Step) else Step.DRAFT

    def told(self, currency: str) -> Told:
        """Return what is told with the step.

        Raises
        ------
        BotinError
            When an amount or a day cannot be read.
        """
        return Told(
            tracking=self.tracking.text, postage=self.postage.money(currency),
            insurance=self.insurance.money(currency), due_on=self.due_on.day(), pay_on=self.pay_on.day(),
            number=self.number.text,
        )  # fmt: skip


class BillForm(TypedForm):
    """What the house charges, or that it is paid."""

    not_paid = WordField()
    pay = WordField()
    paid_on = DayField()
    back = MoneyField()
    surcharge = MoneyField()
    pay_on = PlannedField()

    def bill(self, currency: str) -> Bill:
        """Return the bill with the upcharge of each line.

        Raises
        ------
        BotinError
            When an amount or a day cannot be read.
        """
        ups = {line: read_money(text, currency).minor for line, text in by_line("up").items()}
        back, surcharge = self.back.money(currency), self.surcharge.money(currency)
        return Bill(back.minor, surcharge.minor, ups, self.pay_on.day())


class BackForm(TypedForm):
    """Grades that are told, or came back."""

    not_back = WholeField()
    told = WordField()
    back_on = DayField()


class HandForm(TypedForm):
    """Cards handed to a person."""

    day = DayField()


class JoinForm(OnceForm):
    """A membership that was bought, or is taken back."""

    leave = WholeField()
    order = WholeField()
    house = WordField(most=60)
    from_on = DayField()
    until_on = PlannedField()
    cost = MoneyField()

    def joining(self, currency: str) -> Joining:
        """Return the membership.

        Raises
        ------
        BotinError
            When an amount or a day cannot be read.
        """
        until, cost = self.until_on.or_today(), self.cost.money(currency)
        return Joining(self.house.word, self.from_on.or_today(), until, cost, self.order.row_id())


class VoucherForm(OnceForm):
    """A voucher that was got, or is taken out."""

    drop = WholeField()
    whose = WordField(name="for", most=200)
    off = MoneyField()
    cards = WholeField()
    until_on = PlannedField()

    def given(self, currency: str) -> Given:
        """Return the voucher.

        Raises
        ------
        BotinError
            When an amount, a number or a day cannot be read.
        """
        house, _, tier = self.whose.text.partition("\t")
        return Given(house, self.off.money(currency), self.cards.whole(1), tier, self.until_on.day())


class CountsForm(TypedForm):
    """How copies of a product graded, typed; or whose counts stand in for whose."""

    product = WholeField()
    sister = WholeField()
    counts = WordField(most=20_000)


class StackForm(TypedForm):
    """A card put on the stack: typed, scanned, or confirmed; or taken off."""

    off = WordField()
    card = WordField(most=200)
    following = WordField(name="next")
    photo = WordField()


class ChecksForm(OnceForm):
    """Which steps of packing are done, and what the parcel weighs."""

    weight = WholeField()
    weigh = WordField()
    done = TicksField()
    step = WordField()
    then = WordField()

"""One melt, several finishes: planned in one table, each with its own firmness, cautions, steps and pour."""

from decimal import Decimal as D
from itertools import cycle

from django.http import HttpResponse
from django.test import TestCase, tag

from balmcore.tables import shipped
from batches.models import Batch
from pantry.models import Lot
from pantry.services import Purchase, receive
from pours.models import Pour
from tests.support.makings import begin, weigh_to_target
from tests.support.pages import form_data
from tests.support.visible import visible


class FinishTests(TestCase):
    def setUp(self) -> None:
        self.version = begin("Topsail", "pot_salve").versions.get()
        self.page: HttpResponse = self.client.get("/batches/plan", {"version": self.version.pk})

    def post(self, status: int = 200, **changes: str | list[str]) -> HttpResponse:
        response = self.client.post("/batches/plan", form_data(self.page, "plan", **changes))
        self.assertEqual(response.status_code, status)
        return response

    def two(self, amount: str = "1 %", item: str = "tea_tree") -> HttpResponse:
        """Three tins plain, three with something stirred in."""
        self.page = self.post(add_finish="1")
        self.assertEqual(form_data(self.page, "plan")["finish"], ["0", "1"])
        self.page = self.post(count=["3", "3"], container=["tin_screw_30"] * 2, add_item=item, add_amount=amount)
        return self.page

    def test_each_finish_more_has_a_name_that_none_has(self) -> None:
        """Plain, scented and tinted are taken first, then they are counted, up to twelve."""
        for names in (["plain", "scented"], ["plain", "scented", "tinted"], ["plain", "scented", "tinted", "finish 4"]):
            self.page = self.post(add_finish="1")
            self.assertEqual(form_data(self.page, "plan")["finish_name"], names)
        for count in (*range(5, 13), 12):  # twelve at most
            self.page = self.post(add_finish="1")
            self.assertEqual(len(form_data(self.page, "plan")["finish_name"]), count)

    def test_the_same_thing_twice_in_a_finish_is_refused(self) -> None:
        self.two()
        twice = {"add_item": ["tea_tree"] * 2, "add_amount": ["1 %", "0.5 %"], "add_to": ["1", "1"]}
        page = self.post(400, save="1", **twice)
        self.assertContains(page, "The same thing is added twice: put both into one row.", status_code=400)

    def test_two_finishes_are_planned_weighed_poured_and_traced(self) -> None:
        """Portions by hand; the scent stands at its finish alone, in stock, method, pour and recall."""
        form = self.two().context["planning"]
        plain, scented = form.scaled.portions
        net = form.scaled.pieces[1].net_g * 3
        self.assertAlmostEqual(float(scented.add["tea_tree"]), net * 0.01, delta=0.06)
        self.assertEqual(plain.base_g + scented.base_g, form.scaled.total_g)
        self.assertLess(form.parts[1].firmness, form.parts[0].firmness)
        lot = receive(Purchase("tea_tree", D(10)))
        self.post(302, save="1")
        batch = Batch.objects.get()
        self.assertEqual([str(finish) for finish in batch.finishes.all()], ["plain", "scented"])
        self.assertEqual(sum(line.target_g for line in batch.base_lines), form.scaled.total_g)
        method = self.client.get(f"/batches/{batch.pk}/method")
        self.assertContains(method, f"Take {scented.base_g:.1f} g of the base into a small warm jug, stir its glass in")
        self.assertContains(method, "The rest of the base stays on the bath")
        paper = self.client.get(f"/batches/{batch.pk}/")
        self.assertContains(paper, "Of the base, into a small warm jug")
        self.assertContains(paper, f'<td class="num strong">{plain.base_g:.1f}</td>')
        sheet = self.client.get(f"/bench/{batch.pk}/weigh")
        self.assertContains(sheet, "For “scented”")
        weigh_to_target(batch)
        self.assertEqual(Lot.objects.get(pk=lot.pk).left, 10 - scented.add["tea_tree"])
        for name in ("plain", "scented"):
            page = self.client.get(self.client.get(f"/pours/of/{batch.pk}").url)
            self.assertContains(page, f"<small>{name}</small>")
            self.client.post(page.wsgi_request.get_full_path(), form_data(page, "pour"))
        self.assertEqual(Batch.objects.get().state, Batch.State.POURED)
        first, second = Pour.objects.order_by("pk")
        self.assertNotIn("tea_tree", first.to_composition(shipped()).keys)
        scent = second.to_composition(shipped())
        # One percent is the limit, so that the step of the scale rounds it down.
        self.assertAlmostEqual(float(scent.share_of("tea_tree") / scent.total), 0.0095, delta=0.0005)
        self.assertGreater(first.predicted, second.predicted)
        found = self.client.get(f"/pours/from-lot/{lot.pk}").context["trace"]
        self.assertEqual([made.card.pour for made in found.made], [second])

    def test_what_the_scale_weighs_badly_is_offered_other_ways_in_its_finish(self) -> None:
        """0.45 % lavender for three tins: the page opens, with drops, a larger finish and a dilution in the base."""
        self.two("0.45 %", "lavender")
        self.assertContains(self.page, "The scale&#x27;s step puts it")
        self.assertContains(self.page, "of “scented” the scale will")
        self.assertContains(self.page, "less of the base; for what is left of the mix")
        flags = [weight.flag for weight in self.page.context["planning"].weights]
        self.assertEqual([bool(flag) for flag in flags], [False, False, False, True])  # vitamin E, of the base
        self.post(302, save="1")

    @tag("slow")
    def test_every_kind_is_planned_with_a_second_and_a_third_finish(self) -> None:
        """A dozen additions in three sizes, in percent, grams, drops and words: saved, and open at bench, sheet,
        weigh page and method."""
        added = [
            ("lavender", "0.05 %"), ("lavender", "0.45 %"), ("peppermint", "1 %"), ("iron_oxide_red", "2 %"),
            ("iron_oxide_red", "faint"), ("mica_pearl", "clear"), ("mica_pearl", "deep"), ("tocopherol_t50", "0,3 %"),
            ("tea_tree", "0.2 g"), ("olive_oil", "5 %"), ("orange_sweet", "1 drop"), ("jojoba_oil", "0.5 %"),
        ]  # fmt: skip
        turn = cycle(range(0, 5 * len(added), 5))
        for kind in shipped().kinds:
            page = self.client.get("/batches/plan", {"version": begin(kind, kind).versions.get().pk})
            for _ in range(2):
                page = self.client.post("/batches/plan", form_data(page, "plan", add_finish="1"))
            for container, pieces in (("lip_tube_4_5g", "5"), ("tin_screw_30", "3"), ("jar_glass_60", "6")):
                rows = [added[next(turn) % len(added)] for _ in range(2)]
                with self.subTest(kind=kind, container=container, rows=rows):
                    sent = form_data(
                        page, "plan", container=[container] * 3, count=[pieces] * 3, fill=["90 %"] * 3,
                        add_item=[key for key, _ in rows], add_amount=[amount for _, amount in rows], save="1",
                        override_reason="For my own hands, after a patch test.",
                    )  # fmt: skip
                    answer = self.client.post("/batches/plan", sent)
                    self.assertEqual(
                        answer.status_code,
                        302,
                        [line for line in visible(answer.content.decode()) if "said" in line][:3],
                    )
                    batch = Batch.objects.latest("pk")
                    self.assertEqual([line.ingredient_key for line in batch.lines.all() if line.finish_id],
                                     [key for key, _ in rows])  # fmt: skip
                    for address in ("batches/N/", "batches/N/method", "bench/N/weigh", "bench/N/"):
                        shown = self.client.get(f"/{address.replace('N', str(batch.pk))}")
                        self.assertContains(shown, batch.version.formula.name)

    def test_a_limit_broken_by_one_finish_names_it_and_asks(self) -> None:
        """Nine percent of tea tree in one of two: over, in that finish; planned only with a spoken yes."""
        self.two("9 %")
        self.assertContains(self.page, "scented: tea tree 9.0 %")
        self.assertNotContains(self.page, "plain: tea tree")
        self.post(400, save="1")
        self.post(302, save="1", override_reason="For my own boots, not for skin.")
        self.assertContains(self.client.get(f"/bench/{Batch.objects.get().pk}/weigh"), "scented: tea tree")

    def test_amounts_in_grams_drops_and_words_and_what_cannot_be(self) -> None:
        """Grams exactly, a drop in each piece as a percent, a clear tint; each refusal in a sentence."""
        for amount, item, grams in (("0.8 g", "tea_tree", D("0.8")), ("clear", "mica_pearl", D("1.2"))):
            planning = self.two(amount, item).context["planning"]
            self.assertEqual(planning.scaled.portions[1].add[item], grams)
            self.assertEqual(planning.parts[1].added[0].grams, grams)
            self.page = self.client.get("/batches/plan", {"version": self.version.pk})
        drops = self.two("1 drop").context["planning"]
        self.assertEqual(drops.scaled.portions[1].finish.add[0].drops, 1)
        self.assertContains(self.page, "0.1 %")
        for amount, item, said in (
            ("much", "tea_tree", "“much” is not an amount"),
            ("100 %", "tea_tree", "takes the whole of it: no base is left"),
            ("0", "tea_tree", "Nothing of it is added"),
            ("1 drop", "mica_pearl", "How much a drop of mica, white pearl (generic) weighs is not known"),
            ("faint", "tea_tree", "has no faint of its own"),
            ("1 %", "", "Choose what is added"),
        ):
            with self.subTest(amount):
                answer = self.post(400, save="1", add_amount=amount, add_item=item)
                self.assertContains(answer, said, status_code=400)
        answer = self.post(400, save="1", finish_name=["plain", "plain"])
        self.assertContains(answer, "Two finishes are called “plain”", status_code=400)
        self.assertContains(self.post(400, save="1", finish=["0", "0"]), "“scented” has no container", status_code=400)
        self.page = self.post(drop_finish="1")
        self.assertEqual(self.page.context["planning"].finishes, ())
        self.assertFalse(Batch.objects.exists())

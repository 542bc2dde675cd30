"""A batch that no pitcher holds at once, at the bench: pitcher after pitcher, then into the log."""

from unittest import mock

from django.http import HttpResponse

from bench.tests.test_bench import BenchTestCase
from pours.models import Pour
from tests.support.pages import form_data


class RoundsTests(BenchTestCase):
    def plan(self, page: HttpResponse) -> dict[str, list[str]]:
        jug = {"pitcher": "jug_pouring_250", "chosen_pitcher": "1"}
        return form_data(page, "plan", count="12", container="tin_screw_60", save="1", **jug)

    def test_pitcher_after_pitcher_and_all_pieces_once(self) -> None:
        """Each line says how much each pitcher takes; every pitcher is melted, poured and its pieces left; one drop is
        tested, and what is put right is for all of them; all pieces are counted at the last."""
        seen, weighed = [], []
        while True:
            shown = self.page.context
            if shown["bench"].is_filled:
                break
            key, task = self.step, shown["step"].task
            seen.append(key)
            if task == "weigh":
                weighed.append(shown["step"].text)
                self.do("weigh", grams=f"{shown['view'].left_g} g")
            elif task == "fill":
                (row,) = shown["rows"]
                self.assertEqual(row.count, "12")
                self.assertContains(self.page, "Then count all pieces")
                self.do("fill", **{f"count-{row.container.pk}": "12"})
            else:
                if key.startswith("pour"):
                    self.assertEqual([timer.label for timer in shown["bench"].timers], ["It sets"])
                if key == "test":
                    offers = self.client.get(
                        f"{self.path}rescue", {"step": key, "trouble": "soft", "thumb": "soft scoop"}
                    )
                    self.assertContains(offers, "These grams are for all 4 pitchers: an equal part goes into each.")
                self.do("done")
        self.assertIn("into each of 4 pitchers.", weighed[0])
        for key in ("melt", "clear", "pour"):
            self.assertEqual([k for k in seen if k.split("~")[0] == key], [f"{key}~1", f"{key}~2", f"{key}~3", key])
        self.assertEqual(seen.count("test"), 1)
        while not self.page.context["bench"].is_over:
            self.do("done")
        self.do("log")
        self.assertEqual(Pour.objects.get().pieces_made, 12)

    def test_in_a_rehearsal_the_pot_goes_where_each_pitcher_does(self) -> None:
        with mock.patch("instruments.simulator.order", return_value=True) as order:
            self.client.post(f"/bench/{self.batch.pk}/rehearse", {"speed": "60"})
            self.path = f"/bench/rehearsal/{self.batch.pk}/"
            self.page = self.client.get(self.path)
            moved = {}
            while not self.step.startswith("pour"):
                shown = self.page.context
                weighs = shown["step"].task == "weigh"
                self.do("weigh", grams=f"{shown['view'].left_g} g") if weighs else self.do("done")
                moved[self.step] = order.call_args.kwargs.get("move")
        self.assertEqual((moved["melt~1"], moved["pour~1"]), ("bath", "counter"))

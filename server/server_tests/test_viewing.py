import asyncio
import threading
import time
from unittest import mock

import numpy as np
import pyvips
from django.test import SimpleTestCase

from kitecore.errors import Cancelled
from kitecore.pipeline.region_cache import RegionCache
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage_cache import StageCache
from rendering.pool import RenderPool, pool
from server_tests.base import CommittedTestCase, plain, png_bytes

FRAME = {
    "kind": "frame",
    "on": True,
    "turns": 0,
    "flip": False,
    "angle": 0,
    "crop": {"x": 5, "y": 3, "width": 40, "height": 30},
}


def decoded(content: bytes) -> np.ndarray:
    return pyvips.Image.pngload_buffer(content).numpy()


class TrialTest(CommittedTestCase):
    def test_other_steps_are_looked_at_exactly_and_nothing_is_saved(self) -> None:
        _, take = self.picture_and_take(png_bytes(300, 200), [plain(1)])
        other = [FRAME, plain(2)]
        where = {"x": 0.5, "y": 0.25, "width": 30, "height": 20}
        tried = self.send("post", f"/takes/{take.id}/trial", {"steps": other, **where})
        self.assertEqual(tried.status_code, 200)
        take.refresh_from_db()
        self.assertEqual(len(take.core.steps), 1)
        take.save_steps(other)
        chain = self.send("get", f"/takes/{take.id}").json()["plan"]["chain"]
        saved = self.client.get(f"/api/takes/{take.id}/cuts/{chain}/25_5_30_20.png")
        np.testing.assert_array_equal(decoded(tried.content), decoded(saved.content))

    def test_cuts_lie_inside_and_bad_steps_are_told(self) -> None:
        _, take = self.picture_and_take(png_bytes(40, 30), [plain(1)])
        corner = {"steps": [plain(1)], "x": 1, "y": 1, "width": 25, "height": 400}
        tried = self.send("post", f"/takes/{take.id}/trial", corner)
        self.assertEqual(decoded(tried.content).shape, (30, 25, 3))
        bad = self.send("post", f"/takes/{take.id}/trial", corner | {"steps": [plain(100)]})
        self.assertIn(bad.status_code, (400, 422))
        self.assertTrue(bad.json()["message"])
        stranger = self.send("post", f"/takes/{take.id}/trial", corner, client=self.as_stranger())
        self.assertEqual(stranger.status_code, 404)


class TilesTest(CommittedTestCase):
    def plan(self, take_id: object) -> dict:
        return self.send("get", f"/takes/{take_id}").json()["plan"]

    def test_pictures_are_packed_for_those_who_look_from_elsewhere(self) -> None:
        _, take = self.picture_and_take(png_bytes(300, 200), [plain(1)])
        cut = f"/api/takes/{take.id}/cuts/{self.plan(take.id)['chain']}/0_0_300_200.png"
        for marked in ("", "?show=stripes"):
            here = self.client.get(cut + marked, REMOTE_ADDR="127.0.0.1").content
            away = self.client.get(cut + marked, REMOTE_ADDR="10.1.2.3").content
            unknown = self.client.get(cut + marked, REMOTE_ADDR="").content
            self.assertNotEqual(here, away)
            self.assertEqual(away, unknown)
            np.testing.assert_array_equal(decoded(here), decoded(away))

    def test_tiles_at_full_size_are_the_delivered_pixels(self) -> None:
        _, take = self.picture_and_take(png_bytes(300, 200), [plain(2.5)])
        plan = self.plan(take.id)
        seen = np.zeros((500, 750, 3), np.uint8)
        for column, row in ((c, r) for c in range(3) for r in range(2)):
            tile = self.client.get(f"/api/takes/{take.id}/tiles/{plan['chain']}/0/{column}_{row}.png")
            self.assertEqual(tile["X-Kite-Exact"], "yes")
            pixels, left, top = decoded(tile.content), max(0, 256 * column - 1), max(0, 256 * row - 1)
            place = seen[top : top + pixels.shape[0], left : left + pixels.shape[1]]
            if column:
                np.testing.assert_array_equal(place[:, :2], pixels[:, :2], "neighbours share their edge")
            place[...] = pixels
        from kitecore.delivery.spec import OutputSpec
        from kitecore.delivery.write import write_result
        from kitecore.files.source import Source
        from kitecore.takes.plan import plan as resolve

        path = self.home / "out.png"
        with Source(take.picture.original.path) as source:
            write_result(resolve(take.core, source.size), source, OutputSpec(format="png", depth=8), path)
        np.testing.assert_array_equal(seen, pyvips.Image.pngload(str(path)).numpy())

    def test_the_framed_source_is_had_under_its_own_chain(self) -> None:
        content = png_bytes()
        _, take = self.picture_and_take(content, [FRAME, plain(2)])
        plan = self.plan(take.id)
        original = decoded(self.client.get(f"/api/takes/{take.id}/tiles/{plan['framed_chain']}/0/0_0.png").content)
        np.testing.assert_array_equal(original, decoded(content)[3:33, 5:45])

    def test_turns_are_those_of_who_is_signed_in(self) -> None:
        _, take = self.picture_and_take()
        address = f"/api/takes/{take.id}/tiles/{self.plan(take.id)['chain']}/0/0_0.png"
        with mock.patch.object(pool._threads, "submit", side_effect=pool._threads.submit) as submitted:
            self.assertEqual(self.client.get(address).status_code, 200)
            self.assertEqual(self.as_stranger().get(address).status_code, 404)
        mine, other = (call.args[0] for call in submitted.call_args_list)
        self.assertEqual(mine, str(take.picture.job.owner_id))
        self.assertNotIn(other, (mine, ""))

    def test_reduced_levels_say_they_are_approximate(self) -> None:
        _, take = self.picture_and_take(png_bytes(300, 200), [plain(4)])
        chain = self.plan(take.id)["chain"]
        tile = self.client.get(f"/api/takes/{take.id}/tiles/{chain}/2/0_0.png")
        self.assertEqual((tile["X-Kite-Exact"], decoded(tile.content).shape), ("no", (267, 400, 3)))

    def test_old_chains_and_tiles_outside_are_refused(self) -> None:
        _, take = self.picture_and_take(steps=[plain(2)])
        _, other = self.picture_and_take(steps=[plain(3)])
        chain = self.plan(other.id)["chain"]
        self.assertEqual(self.client.get(f"/api/takes/{take.id}/tiles/{chain}/0/0_0.png").status_code, 409)
        chain = self.plan(take.id)["chain"]
        for place in ("9_0", "0_9"):
            self.assertEqual(self.client.get(f"/api/takes/{take.id}/tiles/{chain}/0/{place}.png").status_code, 404)

    def test_what_a_take_was_can_still_be_looked_at(self) -> None:
        _, take = self.picture_and_take(steps=[plain(2)])
        path = f"/api/takes/{take.id}/tiles/{self.plan(take.id)['chain']}/0/0_0.png"
        before = self.client.get(path).content
        self.send("put", f"/takes/{take.id}", {"steps": [plain(3)]})
        self.assertEqual(self.client.get(path).content, before)
        self.send("post", f"/takes/{take.id}/undo")
        self.assertEqual(self.client.get(path).content, before)

    def test_tiles_are_the_same_whatever_is_told_of_the_view(self) -> None:
        _, take = self.picture_and_take(
            png_bytes(700, 600, seed=5), [{"kind": "denoise", "luminance": 60, "colour": 80}]
        )
        path = f"/api/takes/{take.id}/tiles/{self.plan(take.id)['chain']}/0/1_1.png"
        tiles = []
        for number, told in enumerate(("-20 100 650 5000", "", "nonsense", "9 9 9 9", f"{'9' * 40} 0 0 0")):
            # Nothing is kept from one to the next.
            with (
                mock.patch(
                    "rendering.regions.region_cache", return_value=RegionCache(self.home / f"kept{number}", 10**9)
                ),
                mock.patch("rendering.regions.stage_cache", return_value=StageCache(10**9)),
            ):
                tiles.append(decoded(self.client.get(path, headers={"X-Kite-Seen": told}).content))
        self.assertEqual(tiles[0].shape, (258, 258, 3))
        for tile in tiles[1:]:
            np.testing.assert_array_equal(tile, tiles[0])

    def test_pixels_are_told_in_the_depth_of_the_source(self) -> None:
        content = png_bytes(bits=16)
        _, take = self.picture_and_take(content, [FRAME, {**plain(1), "target": {"by": "factor", "factor": 1}}])
        pixel = self.send("get", f"/takes/{take.id}/pixel?x=7&y=4").json()
        truth = decoded(content)[3 + 4, 5 + 7].tolist()
        self.assertEqual((pixel["source"], pixel["source_bits"]), (truth, 16))
        self.assertEqual((pixel["result"], pixel["bits"]), (truth, 16))
        outside = self.send("get", f"/takes/{take.id}/pixel?x=700&y=4")
        self.assertEqual((outside.status_code, "no pixel at 700, 4" in outside.json()["message"]), (400, True))

    def test_what_was_computed_is_not_computed_again(self) -> None:
        from unittest import mock

        _, take = self.picture_and_take(png_bytes(seed=int(time.time())), [plain(2)])
        path = f"/api/takes/{take.id}/tiles/{self.plan(take.id)['chain']}/0/0_0.png"
        first = self.client.get(path).content
        with mock.patch("rendering.regions.result_stage", side_effect=AssertionError("rendered again")):
            self.assertEqual(self.client.get(path).content, first)


class DeskTest(SimpleTestCase):
    def slow(self, log: list[str], name: str):  # type: ignore[no-untyped-def]
        def work(run: Run) -> str:
            for _ in range(200):
                run.check()
                time.sleep(0.005)
            log.append(name)
            return name

        return work

    def test_a_newer_request_calls_off_the_viewers_older_ones(self) -> None:
        pool, log = RenderPool(1), list[str]()

        async def both() -> list[object]:
            older = [asyncio.create_task(pool.render("pane", 1, self.slow(log, f"old {i}"))) for i in range(3)]
            other = asyncio.create_task(pool.render("elsewhere", 1, lambda run: "other"))
            await asyncio.sleep(0.05)
            newer = asyncio.create_task(pool.render("pane", 2, lambda run: "new"))
            return await asyncio.gather(*older, newer, other, return_exceptions=True)

        started = time.monotonic()
        results = asyncio.run(both())
        self.assertTrue(all(isinstance(result, Cancelled) for result in results[:3]), results)
        self.assertEqual(results[3:], ["new", "other"])
        self.assertEqual(log, [])
        self.assertLess(time.monotonic() - started, 0.9, "the abandoned ones did not run to their end")

    def test_a_closed_connection_calls_its_request_off(self) -> None:
        pool, log = RenderPool(1), list[str]()

        async def leave() -> None:
            task = asyncio.create_task(pool.render("pane", 1, self.slow(log, "left")))
            await asyncio.sleep(0.05)
            task.cancel()
            await asyncio.gather(task, return_exceptions=True)

        asyncio.run(leave())
        time.sleep(0.05)
        self.assertEqual(log, [])

    def test_what_is_less_urgent_comes_after_what_viewers_wait_for(self) -> None:
        pool, log = RenderPool(1), list[str]()

        async def both() -> None:
            viewed = [asyncio.create_task(pool.render("pane", 1, self.slow(log, f"tile {i}"))) for i in range(2)]
            await asyncio.sleep(0.01)
            await asyncio.gather(pool.render_beside(self.slow(log, "trial")), *viewed)

        asyncio.run(both())
        self.assertEqual(log, ["tile 0", "tile 1", "trial"])

    def test_what_is_less_urgent_begins_anew_when_somebody_asks_for_a_tile(self) -> None:
        pool, log = RenderPool(2), list[str]()

        async def both() -> None:
            trial = asyncio.create_task(pool.render_beside(self.slow(log, "trial")))
            await asyncio.sleep(0.7)
            await asyncio.gather(pool.render("pane", 1, self.slow(log, "tile")), trial)

        asyncio.run(both())
        self.assertEqual(log, ["tile", "trial"])

    def test_what_is_rendered_ahead_gives_way(self) -> None:
        pool, log = RenderPool(2), list[str]()

        async def both() -> list[object]:
            ahead = asyncio.create_task(pool.render_ahead(self.slow(log, "ahead")))
            await asyncio.sleep(0.05)
            asked = asyncio.create_task(pool.render("pane", 1, self.slow(log, "asked")))
            await asyncio.sleep(0.05)
            later = asyncio.create_task(pool.render_ahead(lambda run: "too soon"))
            return await asyncio.gather(ahead, asked, later, return_exceptions=True)

        ahead, asked, later = asyncio.run(both())
        self.assertIsInstance(ahead, Cancelled)
        self.assertIsInstance(later, Cancelled)
        self.assertEqual((asked, log), ("asked", ["asked"]))
        self.assertEqual(asyncio.run(pool.render_ahead(lambda run: "now")), "now")

    def test_what_is_not_waited_for_is_computed_in_small_blocks(self) -> None:
        pool = RenderPool(1)

        async def blocks() -> list[int]:
            block = lambda run: run.block  # noqa: E731
            return [
                await pool.render("pane", 1, block),
                await pool.render_ahead(block),
                await pool.render_beside(block),
            ]

        waited_for, ahead, beside = asyncio.run(blocks())
        self.assertEqual(waited_for, 0)
        self.assertLessEqual({ahead, beside}, set(range(64, 513)))

    def test_no_more_than_so_many_at_once(self) -> None:
        pool, running, most = RenderPool(2), threading.Semaphore(0), [0, 0]
        lock = threading.Lock()

        def work(run: Run) -> None:
            with lock:
                most[0] += 1
                most[1] = max(most)
            time.sleep(0.02)
            with lock:
                most[0] -= 1
            running.release()

        async def many() -> None:
            await asyncio.gather(*(pool.render(f"pane {i}", 0, work) for i in range(8)))

        asyncio.run(many())
        self.assertEqual(most[1], 2)

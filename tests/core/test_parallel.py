"""Work on several things at once, taken up in their order."""

from concurrent.futures import ThreadPoolExecutor
from threading import Event

from core.parallel import in_order


def test_results_come_in_order_and_only_so_many_are_begun_ahead():
    begun, second_is_done = [], Event()

    def work(number: int) -> int:
        begun.append(number)
        if number == 1:
            assert second_is_done.wait(10)  # the second is done before the first
        if number == 2:
            second_is_done.set()
        return 10 * number

    with ThreadPoolExecutor(4) as pool:
        results = in_order(pool, work, [1, 2, 3, 4, 5], ahead=2)
        assert next(results) == (1, 10)
        assert sorted(begun) == [1, 2]
        assert list(results) == [(2, 20), (3, 30), (4, 40), (5, 50)]
    with ThreadPoolExecutor(4) as pool:
        assert list(in_order(pool, work, [], ahead=2)) == []

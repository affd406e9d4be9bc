#include "parallel/GiveWay.h"
#include "parallel/Sort.h"

#include <tbb/task_arena.h>
#include <QtTest/QtTest>

#include <cmath>
#include <numeric>
#include <vector>

#include <sys/resource.h>
#include <unistd.h>
#include <thread>

using namespace seedloom;

namespace {

double chunkedSum(int threads) {
    constexpr std::size_t n = 300000;
    double total = 0;
    tbb::task_arena(threads).execute([&] {
        std::vector<double> partial(chunkCount(n));
        forChunks(n, RunContext(), [&](std::size_t chunk, Range range) {
            for (std::size_t i = range.begin; i < range.end; ++i) partial[chunk] += std::sin(double(i)) * 1e-3;
        });
        total = std::accumulate(partial.begin(), partial.end(), 0.0);
    });
    return total;
}

}  // namespace

class TestParallel : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void sortingIsSorting() {
        for (std::size_t n : {std::size_t(0), std::size_t(1), std::size_t(32768), std::size_t(32769), std::size_t(200001)}) {
            std::vector<std::pair<std::uint64_t, std::uint32_t>> list(n);
            for (std::size_t i = 0; i < n; ++i) list[i] = {(i * 2654435761u) % 1000, std::uint32_t(i)};
            auto expected = list;
            std::sort(expected.begin(), expected.end());
            sortInParallel(list, RunContext());
            QVERIFY(list == expected);
        }
    }

    void everyIndexOnce() {
        for (std::size_t n : {std::size_t(0), std::size_t(1), kChunk - 1, kChunk, kChunk + 1, 5 * kChunk + 3}) {
            std::vector<std::uint8_t> seen(n, 0);
            forEach(n, RunContext(), [&](std::size_t i) { ++seen[i]; });
            QCOMPARE(std::count(seen.begin(), seen.end(), 1), std::ptrdiff_t(n));
        }
    }

    void sumsDoNotDependOnThreads() {
        const double one = chunkedSum(1);
        for (int run = 0; run < 20; ++run) QCOMPARE(chunkedSum(8), one);
    }

    void cancellingStopsBeforeTheNextChunk() {
        std::atomic<bool> stop{false};
        const RunContext run(&stop);
        std::atomic<int> chunks{0};
        bool cancelled = false;
        try {
            tbb::task_arena(1).execute([&] {
                forChunks(100 * kChunk, run, [&](std::size_t, Range) {
                    if (++chunks == 3) stop = true;
                });
            });
        } catch (const Cancelled&) {
            cancelled = true;
        }
        QVERIFY(cancelled);
        QCOMPARE(chunks.load(), 3);
    }

    void aThreadGivesWayByItself() {
        const auto niceness = [] { return getpriority(PRIO_PROCESS, id_t(gettid())); };
        const int before = niceness();
        int behind = before;
        std::thread([&] {
            giveWay();
            behind = niceness();
        }).join();
        QVERIFY(behind > before || before == 19);
        QCOMPARE(niceness(), before);
    }

    void hugeEstimatesAreRefused() {
        const RunContext run(nullptr, {1000});
        run.require(1000, "points");
        QVERIFY_EXCEPTION_THROWN(run.require(1001, "points"), LimitExceeded);
        QVERIFY_EXCEPTION_THROWN(run.require(std::nan(""), "points"), LimitExceeded);
    }
};

QTEST_APPLESS_MAIN(TestParallel)
#include "test_parallel.moc"

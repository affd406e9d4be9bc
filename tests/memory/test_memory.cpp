// No memory: the n-th allocation of a build fails, for many n over the demo looms. The build ends with notices, never the program. And the memo, which
// holds results within a budget.
#include "engine/Engine.h"
#include "formats/AssetShelf.h"
#include "formats/LoomFile.h"
#include "geometry/RayScene.h"
#include "graph/Controls.h"
#include "operators/Polyhedra.h"
#include "support/Looms.h"
#include "support/Run.h"

#include <QtTest/QtTest>

#include <dlfcn.h>
#include <execinfo.h>

#include <cstdlib>
#include <cstring>
#include <new>

using namespace seedloom;
using namespace seedloom::test;

namespace {

/// Counts down with each allocation; the one that reaches 0 fails. Below 0: none.
std::atomic<long> untilFailure{-1};
std::atomic<bool> counting{false};
std::atomic<long> counted{0};

/// The JSON library asks for memory while it destroys a value, where no failure can be told, and the ray library ends the program by an assertion of its own
/// when its builder runs out of memory in the wrong place: nothing of ours can help against that.
bool whereNoFailureCanBeTold() {
    counting = false;
    void* callers[64];
    const int depth = backtrace(callers, 64);
    bool found = false;
    for (int i = 0; i < depth && !found; ++i) {
        Dl_info info;
        found = dladdr(callers[i], &info) && info.dli_sname &&
                (std::strstr(info.dli_sname, "json_value7destroy") || std::strcmp(info.dli_sname, "rtcCommitScene") == 0);
    }
    counting = true;
    return found;
}

void* allocated(std::size_t size) {
    if (counting.load(std::memory_order_relaxed)) {
        ++counted;
        if (untilFailure.load(std::memory_order_relaxed) >= 0 && untilFailure.fetch_sub(1) == 0) {
            if (!whereNoFailureCanBeTold()) throw std::bad_alloc();
            untilFailure = 0;  // the next one, then
        }
    }
    if (void* memory = std::malloc(size ? size : 1)) return memory;
    throw std::bad_alloc();
}

}  // namespace

#ifdef __SANITIZE_ADDRESS__
/// The sanitizer would take memory given back by the library's own operator for a mismatch with the one above.
extern "C" const char* __asan_default_options() { return "alloc_dealloc_mismatch=0"; }
#endif

void* operator new(std::size_t size) { return allocated(size); }
void* operator new[](std::size_t size) { return allocated(size); }
void operator delete(void* memory) noexcept { std::free(memory); }
void operator delete[](void* memory) noexcept { std::free(memory); }
void operator delete(void* memory, std::size_t) noexcept { std::free(memory); }
void operator delete[](void* memory, std::size_t) noexcept { std::free(memory); }

class TestMemory : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void noAllocationThatFailsEndsTheProgram_data() {
        QTest::addColumn<QString>("name");
        for (const auto& entry : std::filesystem::directory_iterator(std::filesystem::path(SEEDLOOM_SOURCE) / "demo"))
            if (entry.path().extension() == ".loom") QTest::newRow(entry.path().stem().c_str()) << QString::fromStdString(entry.path().string());
    }
    void noAllocationThatFailsEndsTheProgram() {
        QFETCH(QString, name);
        const std::filesystem::path file = name.toStdString();
        RebuildRequest request;
        request.loom = std::make_shared<const Loom>(*readLoom(file));
        request.controls = *controlValues(*request.loom);
        request.folder = file.parent_path().string();
        request.assets = assetsOf(*request.loom, file.parent_path());
        const auto build = [&](long failing) {
            Memo memo;
            counted = 0;
            untilFailure = failing;
            counting = true;
            RebuildResult result = rebuild(request, memo);
            counting = false;
            return result;
        };
        const RebuildResult whole = build(-1);
        QVERIFY(!whole.failed());
        const Digest digest = digestOf(*whole.geometry(request.loom->output));
        const long all = counted;
        QVERIFY(all > 100);
        int failed = 0;
        constexpr int kTimes = 24;
        for (int i = 0; i < kTimes; ++i) {
            // Close to each other at the start, where steps are made, then spread over all.
            const long at = i < 8 ? i * 7 : long(double(all) * double(i - 7) / double(kTimes - 6));
            const RebuildResult result = build(at);
            QVERIFY(!result.cancelled);
            if (result.failed()) {
                ++failed;
                QVERIFY(!result.notices(*request.loom).empty() || !result.broken.empty());
            } else if (const Geometry* geometry = result.geometry(request.loom->output)) {
                QCOMPARE(digestOf(*geometry), digest);  // what failed was not needed
            }
        }
        QVERIFY2(failed > 0, "no failure was noticed");
        QVERIFY(!build(-1).failed());
    }

    /// The ray library goes on by itself with less when memory ends; a scene says so instead.
    void aSceneForRaysIsWholeOrNotThere() {
        const Geometry ball = geodesicBall(8);
        const auto metBy = [&](long failing) -> std::optional<bool> {
            untilFailure = failing;
            counting = true;
            std::optional<bool> met;
            try {
                const RayScene scene(ball);
                counting = false;
                met = scene.hit({0.1f, 0.05f, 5}, {0, 0, -1}, 0).has_value();
            } catch (const std::bad_alloc&) {}
            counting = false;
            return met;
        };
        counted = 0;
        QCOMPARE(metBy(-1), std::optional(true));
        const long all = counted;
        QVERIFY(all > 10);
        int refused = 0;
        for (long at = 0; at < all; ++at) {
            const auto met = metBy(at);
            refused += !met;
            QVERIFY2(met.value_or(true), qPrintable(QString("the ray misses the ball after allocation %1 failed").arg(at)));
        }
        QVERIFY2(refused >= 10, qPrintable(QString::number(refused)));
    }

    /// Many small results count as what they take, and the budget holds.
    void smallResultsCountAsWhatTheyTake() {
        Memo memo(std::size_t(1) << 20);
        for (std::uint64_t i = 0; i < 20000; ++i) {
            auto outcome = std::make_shared<NodeOutcome>();
            outcome->notices.push_back({NoticeLevel::info, "some.code", std::string(100, 'x'), {}, {}});
            memo.store({Digest{i, i}}, outcome);
        }
        QVERIFY(memo.bytes() <= std::size_t(1) << 20);
        QVERIFY(memo.entries() < 4000 && memo.entries() > 500);
        QVERIFY(memo.find({Digest{19999, 19999}}));
        QVERIFY(!memo.find({Digest{0, 0}}));
    }

    void sharedStorageCountsOnce() {
        Memo memo(std::size_t(64) << 20);
        const Geometry large(std::vector<Vec3>(1'000'000));
        const auto store = [&](std::uint64_t key, Geometry geometry) {
            auto outcome = std::make_shared<NodeOutcome>();
            outcome->geometry = std::move(geometry);
            memo.store({Digest{key, 0}}, outcome);
        };
        store(1, large);
        const std::size_t one = memo.bytes();
        QVERIFY(one >= 12'000'000);
        for (std::uint64_t i = 2; i < 12; ++i) {
            Geometry other = large;
            other.setColumn(Element::model, "n", Column(std::vector<float>{float(i)}));
            store(i, other);
        }
        QCOMPARE(memo.entries(), std::size_t(11));
        QVERIFY2(memo.bytes() < one + 11 * 2000, qPrintable(QString::number(memo.bytes())));
    }

    /// What took long to make for its size outlives what did not.
    void whatSavesMostStays() {
        Memo memo(std::size_t(8) << 20);
        const auto store = [&](std::uint64_t key, double ms) {
            auto outcome = std::make_shared<NodeOutcome>();
            outcome->geometry = Geometry(std::vector<Vec3>(50'000));
            outcome->ms = ms;
            memo.store({Digest{key, 1}}, outcome);
        };
        store(0, 5000);
        for (std::uint64_t i = 1; i < 200; ++i) store(i, 0.1);
        QVERIFY(memo.find({Digest{0, 1}}));
        QVERIFY(!memo.find({Digest{1, 1}}));
        QVERIFY(memo.find({Digest{199, 1}}));
        // Larger than all there is: not kept, and nothing goes for it.
        const std::size_t before = memo.entries();
        auto huge = std::make_shared<NodeOutcome>();
        huge->geometry = Geometry(std::vector<Vec3>(2'000'000));
        memo.store({Digest{7, 7}}, huge);
        QVERIFY(!memo.find({Digest{7, 7}}));
        QCOMPARE(memo.entries(), before);
    }
};

QTEST_GUILESS_MAIN(TestMemory)
#include "test_memory.moc"

// Where files come from: the disk, memory, packs; and that everything that a loom names is read from there.
#include "engine/Engine.h"
#include "files/PackFiles.h"
#include "formats/AssetShelf.h"
#include "formats/LoomFile.h"
#include "meshes/MeshFile.h"
#include "support/Chance.h"
#include "support/Run.h"
#include "support/StoredZip.h"

#include <QtCore/QTemporaryDir>

#include <fstream>

using namespace seedloom;
using namespace seedloom::test;
namespace fs = std::filesystem;

namespace {

using Held = std::map<std::string, std::string>;

const std::string kTriangle = "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n", kSquare = "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nf 1 2 3\nf 1 3 4\n";

/// A loom whose output is what a file holds.
std::string loomWith(const char* op, const char* setting, const char* file) {
    Loom loom;
    Node node, output;
    node.id = "read", node.op = op, node.settings = {{setting, file}};
    output.id = "output", output.op = "output";
    loom.nodes = {node, output};
    loom.links = {{"read", "", "output", "", Json::object()}};
    loom.output = "output";
    return loomToText(loom);
}

std::size_t facesOf(const std::string& file, const Files& files, Memo& memo) {
    RebuildRequest request;
    const auto loom = readLoom(file, *files);
    if (!loom) return 999;
    request.loom = std::make_shared<const Loom>(*loom);
    request.folder = fs::path(file).parent_path().string();
    request.files = files;
    request.assets = assetsOf(*loom, request.folder, files);
    const RebuildResult made = rebuild(request, memo);
    const Geometry* g = made.geometry("output");
    return g && !made.failed() ? g->faceCount() : 999;
}

Result<std::shared_ptr<const PackFiles>> packOf(const std::vector<std::pair<std::string, std::string>>& files) {
    return PackFiles::fromBytes(storedZip(files), "quay.pack");
}

}  // namespace

class TestFiles : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void theDiskReachesOnlyWhatItMay() {
        QTemporaryDir around;
        const fs::path root = fs::path(around.path().toStdString()), inside = root / "in";
        fs::create_directory(inside);
        QVERIFY(!writeFileAtomically(inside / "a.txt", "mine"));
        QVERIFY(!writeFileAtomically(root / "b.txt", "other"));
        fs::create_symlink(root / "b.txt", inside / "link.txt");
        const DiskFiles files(inside);
        QCOMPARE(*files.read(inside / "a.txt"), std::string("mine"));
        QCOMPARE(files.stamp(inside / "a.txt")->size, std::uint64_t(4));
        for (const fs::path& path : {root / "b.txt", inside / ".." / "b.txt", inside / "link.txt", fs::path("/etc/hostname")}) {
            const auto read = files.read(path);
            QVERIFY2(!read && read.error().code == "file.outside", path.c_str());
            QVERIFY(!files.stamp(path));
        }
        // A folder whose name only begins alike is another one.
        fs::create_directory(root / "inner");
        QVERIFY(!writeFileAtomically(root / "inner" / "c.txt", "c"));
        QVERIFY(!files.read(root / "inner" / "c.txt"));
        QCOMPARE(*diskFiles()->read(root / "b.txt"), std::string("other"));
        QCOMPARE(files.read(inside / "none.txt").error().code, std::string("file.read"));
        QVERIFY(!diskFiles()->read(root / "b.txt", 3));
    }

    void stampsTellStatesApart() {
        QTemporaryDir folder;
        const fs::path file = fs::path(folder.path().toStdString()) / "a.txt";
        QVERIFY(!diskFiles()->stamp(file));
        QVERIFY(!writeFileAtomically(file, "one"));
        const auto first = diskFiles()->stamp(file);
        fs::last_write_time(file, fs::last_write_time(file) + std::chrono::milliseconds(1));
        QVERIFY(first && first != diskFiles()->stamp(file));
        const MemoryFiles before(Held{{"a", "one"}}), after(Held{{"a", "two"}});
        QVERIFY(before.stamp("a") != after.stamp("a"));
        QCOMPARE(*before.stamp("./b/../a"), *MemoryFiles(Held{{"a", "one"}}).stamp("a"));
        QVERIFY(!before.stamp("b"));
        QVERIFY(!before.read("b") && !before.read("a", 2));
        QCOMPARE(*before.read("a", 3), std::string("one"));
    }

    void loomsReadOnlyFromTheirSource() {
        const Held held{{"quay/post.loom", loomWith("import_mesh", "file", "parts/post.obj")},
                        {"quay/parts/post.obj", kTriangle},
                        {"row.loom", loomWith("asset", "asset", "quay/post.loom")}};
        Memo memo(1 << 24);
        const auto files = std::make_shared<MemoryFiles>(held);
        QCOMPARE(facesOf("quay/post.loom", files, memo), std::size_t(1));
        QCOMPARE(facesOf("row.loom", files, memo), std::size_t(1));
        // The same paths with other content, and the same memo.
        auto changed = held;
        changed["quay/parts/post.obj"] = kSquare;
        QCOMPARE(facesOf("row.loom", std::make_shared<MemoryFiles>(changed), memo), std::size_t(2));
        QCOMPARE(facesOf("row.loom", files, memo), std::size_t(1));
        changed.erase("quay/parts/post.obj");
        QCOMPARE(facesOf("row.loom", std::make_shared<MemoryFiles>(changed), memo), std::size_t(999));
        // What stands in for an input comes from there as well.
        auto sampled = held;
        sampled["row.loom"] = loomWith("input_geometry", "sample", "quay/parts/post.obj");
        QCOMPARE(facesOf("row.loom", std::make_shared<MemoryFiles>(sampled), memo), std::size_t(1));
        // A pack of the same.
        const auto pack = packOf({held.begin(), held.end()});
        QVERIFY(bool(pack));
        QCOMPARE(facesOf("row.loom", *pack, memo), std::size_t(1));
    }

    void dataBesideAMeshComesFromThere() {
        const std::string gltf = R"({"asset":{"version":"2.0"},"buffers":[{"uri":"post.bin","byteLength":36}],"bufferViews":[{"buffer":0,"byteLength":36}],)"
                                 R"("accessors":[{"bufferView":0,"componentType":5126,"count":3,"type":"VEC3"}],)"
                                 R"("meshes":[{"primitives":[{"attributes":{"POSITION":0}}]}]})";
        const float places[] = {0, 0, 0, 1, 0, 0, 0, 1, 0};
        const std::string data(reinterpret_cast<const char*>(places), sizeof places);
        const auto read = readMesh("m/post.gltf", MemoryFiles(Held{{"m/post.gltf", gltf}, {"m/post.bin", data}}));
        QVERIFY2(bool(read), read ? "" : read.error().text.c_str());
        QCOMPARE(read->faceCount(), std::size_t(1));
        QVERIFY(!readMesh("m/post.gltf", MemoryFiles(Held{{"m/post.gltf", gltf}, {"post.bin", data}})));
    }

    void packsHoldWhatWasPutIn() {
        const auto pack = packOf({{"a.loom", "one"}, {"parts/", ""}, {"parts/b.obj", kSquare}, {"empty", ""}});
        QVERIFY(bool(pack));
        QCOMPARE((*pack)->paths(), (std::vector<std::string>{"a.loom", "empty", "parts/b.obj"}));
        QCOMPARE(*(*pack)->read("parts/../parts/b.obj"), kSquare);
        QCOMPARE(*(*pack)->read("empty"), std::string());
        QCOMPARE((*pack)->stamp("a.loom")->size, std::uint64_t(3));
        QVERIFY((*pack)->stamp("a.loom") != (*packOf({{"a.loom", "two"}}))->stamp("a.loom"));
        QCOMPARE((*pack)->read("none").error().code, std::string("file.read"));
        QVERIFY(!(*pack)->read("a.loom", 2));
        for (const char* outside : {"../a.loom", "/etc/hostname", "parts/../../a.loom"})
            QCOMPARE((*pack)->read(outside).error().code, std::string("file.outside"));
        QTemporaryDir folder;
        const fs::path file = fs::path(folder.path().toStdString()) / "quay.pack";
        QVERIFY(!writeFileAtomically(file, storedZip({{"a.loom", "one"}})));
        QCOMPARE(*(*PackFiles::open(file))->read("a.loom"), std::string("one"));
        QCOMPARE(PackFiles::open(file.string() + "x").error().code, std::string("file.read"));
    }

    void packsThatNameOtherPlacesAreRefused() {
        for (const char* name : {"../a.loom", "/tmp/a.loom", "parts/../../a.loom"}) {
            const auto pack = packOf({{name, "one"}});
            QVERIFY2(!pack && pack.error().code == "pack.format", name);
        }
    }

    /// Whatever is in a file, opening and reading ends with bytes of the size that was told, or with an error.
    void damagedPacksAreErrors() {
        const std::string whole = storedZip({{"a.loom", std::string(300, 'x')}, {"parts/b.obj", kSquare}});
        Chance chance(71);
        int opened = 0, refused = 0;
        for (int round = 0; round < 3000; ++round) {
            std::string bytes = whole;
            for (std::size_t i = 0, changes = 1 + chance.below(4); i < changes; ++i) bytes[chance.below(bytes.size())] = char(chance.below(256));
            if (round % 5 == 0) bytes.resize(chance.below(bytes.size()));
            const auto pack = PackFiles::fromBytes(bytes, "quay.pack");
            if (!pack) {
                QVERIFY(!pack.error().text.empty());
                ++refused;
                continue;
            }
            for (const std::string& path : (*pack)->paths()) {
                const auto read = (*pack)->read(path, 1 << 20);
                if (read) QCOMPARE(read->size(), std::size_t((*pack)->stamp(path)->size));
                ++opened;
            }
        }
        QVERIFY2(opened > 100 && refused > 100, qPrintable(QString("%1 %2").arg(opened).arg(refused)));
        // Content that is not what was packed.
        std::string bent = whole;
        bent[bent.find("xxxx")] = 'y';
        const auto pack = PackFiles::fromBytes(bent, "quay.pack");
        QVERIFY(pack && !(*pack)->read("a.loom"));
        // A few bytes that say they are more than there is memory for, when unpacked or as they are.
        for (const char* where : {"unpacked", "packed"}) {
            std::string lying = storedZip({{"a.loom", "one"}});
            const bool packed = std::string_view(where) == "packed";
            for (const std::size_t header : {std::size_t(0), lying.find("PK\x01\x02")})
                for (std::size_t i = 0; i < 3; ++i) lying[header + (header ? 20 : 18) + (packed ? 0 : 4) + i] = char(0xF0);
            const auto pack = PackFiles::fromBytes(lying, "quay.pack");
            QVERIFY2(!pack || !(*pack)->read("a.loom"), where);
        }
        QVERIFY(!PackFiles::fromBytes("", "quay.pack") && !PackFiles::fromBytes("no zip at all", "quay.pack"));
    }

    void manyMayAskAPackAtOnce() {
        const auto pack = packOf({{"a", std::string(5000, 'a')}, {"b", std::string(7000, 'b')}});
        std::atomic<int> right{0};
        std::vector<std::thread> all;
        for (int i = 0; i < 8; ++i)
            all.emplace_back([&, i] {
                for (int k = 0; k < 50; ++k) right += *(*pack)->read(i % 2 ? "a" : "b") == (i % 2 ? std::string(5000, 'a') : std::string(7000, 'b'));
            });
        for (std::thread& thread : all) thread.join();
        QCOMPARE(right.load(), 400);
    }
};

QTEST_APPLESS_MAIN(TestFiles)
#include "test_files.moc"

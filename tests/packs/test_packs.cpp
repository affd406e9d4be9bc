// Packs: what they hold, that they build the same, shelves of them, copies to work on, and another version in the place of one.
#include "files/FileIo.h"
#include "files/PackWriter.h"
#include "formats/FilePaths.h"
#include "formats/Shelf.h"
#include "publish/Post.h"
#include "publish/Publish.h"
#include "publish/UpdateResults.h"
#include "support/Run.h"

#include <QtCore/QTemporaryDir>

using namespace seedloom;
using namespace seedloom::test;

namespace fs = std::filesystem;

class TestPacks : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;
    fs::path path(const char* name) const { return folder_.filePath(name).toStdString(); }
    fs::path write(const char* name, const std::string& text) const {
        if (auto error = writeFileAtomically(path(name), text)) qFatal("%s", error->text.c_str());
        return path(name);
    }

private Q_SLOTS:
    void packsHoldWhatTheLoomReads() {
        // Two meshes of the same name from different folders, and an asset that reads one beside it.
        const std::string square = "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nf 1 2 3 4\n", larger = "v 0 0 0\nv 2 0 0\nv 2 2 0\nv 0 2 0\nf 1 2 3 4\n";
        fs::create_directories(path("a"));
        fs::create_directories(path("b"));
        write("a/tile.obj", square);
        write("b/tile.obj", larger);
        write("b/shown.png", "a picture");
        write("b/plate.loom", R"({"seedloom": 1, "name": "Plate", "version": "0.1.0",
            "nodes": [{"id": "m", "op": "import_mesh", "settings": {"file": "tile.obj"}}, {"id": "o", "op": "output"}],
            "links": [["m", "o"]], "output": "o"})");
        const fs::path file = write("a/tiles.loom", R"({"seedloom": 1, "name": "Tiles", "version": "1.0.0",
            "controls": [{"id": "tile", "label": "Tile", "type": "file", "default": "tile.obj"},
                         {"id": "kind", "label": "Kind", "type": "choice", "default": "a", "choices": ["a", "b"], "pictures": ["../b/shown.png", ""]}],
            "values": {"tile": "../b/tile.obj"},
            "presets": [{"name": "Large", "values": {"tile": "../b/tile.obj"}}],
            "nodes": [{"id": "m", "op": "import_mesh", "settings": {"file": {"control": "tile"}}},
                      {"id": "p", "op": "asset", "asset": {"file": "../b/plate.loom"}, "settings": {}},
                      {"id": "j", "op": "merge"}, {"id": "o", "op": "output"}],
            "links": [["m", "j"], ["p", "j"], ["j", "o"]], "output": "o"})");
        FitSubject tiles = *fitSubjectFrom(file);
        const auto bytes = publishedPack(tiles);
        QVERIFY2(bool(bytes), bytes ? "" : bytes.error().text.c_str());
        const fs::path packFile = write("elsewhere.loompack", *bytes);
        const auto pack = readPack(packFile);
        QVERIFY2(bool(pack), pack ? "" : pack.error().text.c_str());
        QCOMPARE(pack->files->paths(), (std::vector<std::string>{"asset.loom", "files/plate.loom", "files/shown.png", "files/tile-2.obj", "files/tile.obj",
                                                                 "manifest.json", "picture.png"}));
        QCOMPARE(pack->about.version, std::string("1.0.0"));
        QCOMPARE(pack->loom.control("kind")->pictures, (std::vector<std::string>{"files/shown.png", ""}));
        QCOMPARE(withPathsMoved(*tiles.loom, "/quay/a", "/quay").control("kind")->pictures, (std::vector<std::string>{"b/shown.png", ""}));
        QVERIFY(pack->loom.values.empty());
        const Json manifest = Json::parse(*pack->files->read("manifest.json"));
        QVERIFY(manifest["name"] == "Tiles" && manifest["controls"] == Json::array({"tile", "kind"}) && manifest["loompack"] == 1);
        // Wherever it lies, and with all that it was made from gone, it builds the same.
        Loom plain = *tiles.loom;
        plain.values.clear();
        tiles.loom = std::make_shared<const Loom>(plain);
        const Digest before = defaults(tiles);
        fs::remove_all(path("b"));
        fs::remove(path("a/tile.obj"));
        QVERIFY(defaults(*fitSubjectFrom(packFile)) == before);
        QCOMPARE(manifest["digests"]["defaults"].get<std::string>(), before.hex());
        // As an asset of another loom, too; a pack with another mesh is noticed, though its loom is the same.
        write("user.loom", R"({"seedloom": 1, "name": "User", "nodes": [{"id": "p", "op": "asset", "asset": {"file": "elsewhere.loompack"}, "settings": {}},
            {"id": "o", "op": "output"}], "links": [["p", "o"]], "output": "o"})");
        const FitSubject user = *fitSubjectFrom(path("user.loom"));
        QVERIFY(defaults(user) == before);
        std::map<std::string, std::string> other;
        for (const std::string& name : pack->files->paths()) other[name] = *pack->files->read(name);
        std::swap(other["files/tile.obj"], other["files/tile-2.obj"]);
        write("elsewhere.loompack", *packedBytes(other));
        const FitSubject changed = *fitSubjectFrom(path("user.loom"));
        Memo memo;
        RebuildRequest request;
        std::vector<Digest> built;
        for (const FitSubject& each : {user, changed}) {
            request.loom = each.loom, request.folder = each.folder, request.assets = each.assets;
            const RebuildResult result = rebuild(request, memo);
            built.push_back(digestOf(*result.geometry("o")));
        }
        QVERIFY(built[0] != built[1]);
    }

    void shelvesAreLookedThrough() {
        const fs::path shelf = path("shelf");
        const FitSubject post = subject(kPost);
        const auto pack = publishedPack(post);
        FitSubject newer = post;
        Loom loom = *post.loom;
        loom.extra["version"] = "1.10.0";
        newer.loom = std::make_shared<const Loom>(loom);
        fs::create_directories(shelf / "iron" / ".hidden");
        fs::create_directories(shelf / "1/2/3/4/5/6/7/8/9");
        write("shelf/post-1.2.0.loompack", *pack);
        write("shelf/iron/post-1.10.0.loompack", *publishedPack(newer));
        write("shelf/iron/post.loom", kPost);
        write("shelf/iron/torn.loompack", pack->substr(0, pack->size() / 2));
        write("shelf/iron/torn.loom", "{");
        for (const char* other :
             {"shelf/notes.txt", "shelf/.post.loom", "shelf/iron/.hidden/post.loom", "shelf/1/2/3/4/5/6/7/8/9/deep.loom", "shelf/post.loom~"})
            write(other, kPost);
        fs::create_directory_symlink(shelf, shelf / "iron" / "round");
        const auto files = filesOnShelf(shelf);
        QVERIFY(bool(files));
        std::vector<std::string> names;
        for (const fs::path& file : *files) names.push_back(fs::relative(file, shelf).string());
        QCOMPARE(names,
                 (std::vector<std::string>{"iron/post-1.10.0.loompack", "iron/post.loom", "iron/torn.loom", "iron/torn.loompack", "post-1.2.0.loompack"}));
        std::vector<ShelfAsset> assets;
        for (const fs::path& file : *files) assets.push_back(shelfAsset(file));
        QCOMPARE(assets[0].about.name, std::string("Post"));
        QCOMPARE(assets[0].about.version, std::string("1.10.0"));
        QVERIFY(assets[0].pack && assets[0].problem.empty() && assets[0].about.tags == std::vector<std::string>{"post"});
        QCOMPARE(assets[0].controls, (std::vector<std::string>{"height", "width", "open"}));
        QVERIFY(!assets[1].pack && assets[1].about == assets[4].about && assets[1].controls == assets[0].controls);
        QVERIFY(!assets[2].problem.empty() && assets[2].about.name == "torn" && !assets[3].problem.empty() && assets[3].about.name == "torn");
        // What is worked on first, then the newest; 1.10 is newer than 1.2.
        const auto groups = versionsOf(assets);
        QCOMPARE(groups, (std::vector<std::vector<std::size_t>>{{1, 0, 4}, {2, 3}}));
        QVERIFY(shelfPicture(assets[0].file).starts_with("\x89PNG"));
        QVERIFY(shelfPicture(assets[1].file).empty() && shelfPicture(assets[3].file).empty());
        QVERIFY(loomOnShelf(assets[0]) && loomOnShelf(assets[0])->fact("version") == "1.10.0" && loomOnShelf(assets[1]) && !loomOnShelf(assets[3]));
        fs::remove_all(shelf);
        QCOMPARE(filesOnShelf(shelf).error().code, std::string("shelf.gone"));
        QVERIFY(!shelfAsset(shelf / "gone.loompack").problem.empty());
    }

    void aPackIsUnpackedToWorkOn() {
        write("tile.obj", "v 0 0 0\nv 1 0 0\nv 1 1 0\nf 1 2 3\n");
        const fs::path loom = write("tiles.loom", R"({"seedloom": 1, "name": "Tiles", "version": "1.0.0",
            "nodes": [{"id": "m", "op": "import_mesh", "settings": {"file": "tile.obj"}}, {"id": "o", "op": "output"}],
            "links": [["m", "o"]], "output": "o"})");
        const FitSubject tiles = *fitSubjectFrom(loom);
        const fs::path pack = write("tiles.loompack", *publishedPack(tiles, nullptr, {{"sheet/sheet.html", "<p>"}}));
        const auto copy = unpacked(pack, path("copy"));
        QVERIFY2(bool(copy), copy ? "" : copy.error().text.c_str());
        QCOMPARE(copy->filename().string(), std::string("copy.loom"));
        QVERIFY(defaults(*fitSubjectFrom(*copy)) == defaults(tiles));
        QVERIFY(fs::exists(path("copy") / "files/tile.obj") && !fs::exists(path("copy") / "manifest.json") && !fs::exists(path("copy") / "sheet"));
        // What is there stays; a damaged pack leaves nothing behind.
        QCOMPARE(unpacked(pack, path("copy")).error().code, std::string("shelf.taken"));
        std::map<std::string, std::string> files;
        const auto read = readPack(pack);
        for (const std::string& name : read->files->paths()) files[name] = *read->files->read(name);
        files["second.loom"] = "taken";
        const fs::path clash = write("clash.loompack", *packedBytes(files));
        QCOMPARE(unpacked(clash, path("second")).error().code, std::string("shelf.taken"));
        QVERIFY(!fs::exists(path("second")));
        QVERIFY(!unpacked(path("none.loompack"), path("third")) && !fs::exists(path("third")));
        // A folder that can't be written.
        write("file", "");
        QVERIFY(!unpacked(pack, path("file") / "inside"));
    }

    void aPeekSeesWhatReadingSees() {
        const fs::path pack = write("peek.loompack", *publishedPack(subject(kPost)));
        const auto whole = PackFiles::open(pack), some = PackFiles::peek(pack);
        QVERIFY(whole && some);
        QCOMPARE((*some)->paths(), (*whole)->paths());
        for (const std::string& name : (*whole)->paths()) QVERIFY(*(*some)->read(name) == *(*whole)->read(name));
        QCOMPARE((*some)->digest(), (*whole)->digest());
        write("empty.loompack", "");
        QCOMPARE(PackFiles::peek(path("empty.loompack")).error().code, std::string("pack.format"));
        QCOMPARE(PackFiles::peek(path("missing.loompack")).error().code, std::string("file.read"));
    }

    void anUpdateIsShownBeforeItIsTaken() {
        write("post.loom", kPost);
        Json other = Json::parse(kPost);
        other["controls"][0]["default"] = 1.25;
        write("taller.loom", other.dump());
        write("quay.loom", R"({"seedloom": 1, "name": "Quay", "nodes": [{"id": "p", "op": "asset", "asset": {"file": "post.loom"}, "settings": {}},
            {"id": "o", "op": "output"}], "links": [["p", "o"]], "output": "o"})");
        const FitSubject quay = *fitSubjectFrom(path("quay.loom"));
        const Edit taller = setSetting(*quay.loom, "p", "asset", "taller.loom");
        const auto results = updateResults(quay, taller, "p");
        QVERIFY(results && results->before && results->after && !results->same && results->told.empty());
        QVERIFY(std::abs(boundsOf(results->before->geometry).size().y - 1.0f) < 1e-5f && std::abs(boundsOf(results->after->geometry).size().y - 1.25f) < 1e-5f);
        QVERIFY(updateResults(quay, setSetting(*quay.loom, "p", "height", 1.0, quay.assets), "p")->same);
        // What fails only then is told; what did before is not.
        const auto broken = updateResults(quay, setSetting(*quay.loom, "p", "asset", "none.loom"), "p");
        QVERIFY(broken && !broken->told.empty() && !broken->same);
        FitSubject failing = quay;
        failing.loom = std::make_shared<const Loom>(*applied(*quay.loom, setSetting(*quay.loom, "p", "asset", "none.loom")));
        failing.assets = assetsOf(*failing.loom, failing.folder);
        QVERIFY(updateResults(failing, Edit{}, "p")->told.empty());
        std::atomic<bool> cancel{true};
        QCOMPARE(updateResults(quay, taller, "p", &cancel).error().code, std::string("build.cancelled"));
    }

    void theSamePackTwiceIsTheSame() {
        const FitSubject post = subject(kPost);
        const auto first = publishedPack(post), second = publishedPack(post);
        QVERIFY(first && second && *first == *second);
    }

    void whatCantBePackedIsSaid() {
        std::string text = kPost;
        const std::string more = R"({"id": "more", "op": "import_mesh", "settings": {"file": "nowhere.obj"}}, )";
        text.insert(text.find("{\"id\": \"box\""), more);
        const auto missing = publishedPack(subject(text, folder_.path().toStdString()));
        QCOMPARE(missing ? std::string() : missing.error().code, std::string("pack.file"));
        QVERIFY(missing.error().text.find("nowhere.obj") != std::string::npos);
        std::atomic<bool> stop{true};
        QCOMPARE(publishedPack(subject(kPost), &stop).error().code, std::string("pack.cancelled"));
        text = kPost;
        text.replace(text.find("1.2.0"), 5, "soon.");
        QCOMPARE(publishedPack(subject(text)).error().code, std::string("publish.version"));
    }

    void damagedPacksAreRefused() {
        const std::string good = *publishedPack(subject(kPost));
        QVERIFY(packFromBytes(good, "post"));
        // Cut anywhere, it is refused in words.
        for (std::size_t size = 0; size < good.size(); size += good.size() / 37 + 1) {
            const auto cut = packFromBytes(good.substr(0, size), "post");
            QVERIFY(!cut && !cut.error().text.empty());
        }
        const auto refused = [](const std::map<std::string, std::string>& files) {
            const auto pack = packFromBytes(*packedBytes(files), "post");
            return pack ? std::string() : pack.error().code;
        };
        QCOMPARE(refused({{"readme", "no asset"}}), std::string("pack.format"));
        QCOMPARE(refused({{"asset.loom", kPost}, {"manifest.json", R"({"loompack": 99})"}}), std::string("pack.format"));
        QCOMPARE(refused({{"asset.loom", kPost}, {"manifest.json", "[]"}}), std::string("pack.format"));
        QCOMPARE(refused({{"asset.loom", "{"}}), std::string("loom.syntax"));
        QCOMPARE(refused({{"asset.loom", kPost}}), std::string());
        // A loom in a pack reads nothing of the disk around it.
        write("secret.obj", "v 0 0 0\nv 1 0 0\nv 1 1 0\nf 1 2 3\n");
        for (const std::string& outside : {path("secret.obj").string(), std::string("../secret.obj")}) {
            const Json prying{{"seedloom", 1},
                              {"nodes",
                               Json::array({{{"id", "m"}, {"op", "import_mesh"}, {"settings", {{"file", outside}}}}, {{"id", "o"}, {"op", "output"}}})},
                              {"links", Json::array({Json::array({"m", "o"})})},
                              {"output", "o"}};
            const FitSubject pry = *fitSubjectFromPack(*packedBytes({{"asset.loom", prying.dump()}}), "prying");
            const Verdict verdict = judge(pry, {});
            QCOMPARE(verdict.state, Verdict::State::failed);
            QVERIFY2(verdict.faults.front().find("outside of the pack") != std::string::npos, verdict.faults.front().c_str());
        }
    }
};

QTEST_APPLESS_MAIN(TestPacks)
#include "test_packs.moc"

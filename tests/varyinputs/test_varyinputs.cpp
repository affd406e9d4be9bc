// Files in the place of what a loom asks others to plug in, varied like controls; also those that a pack may read beside what is in it.
#include "files/FileIo.h"
#include "files/PackWriter.h"
#include "formats/LoomFile.h"
#include "formats/Pack.h"
#include "graph/NodeSpec.h"
#include "support/Run.h"
#include "vary/VariedInputs.h"
#include "vary/VaryPlan.h"
#include "vary/VaryRun.h"

#include <QtCore/QTemporaryDir>

using namespace seedloom;
using namespace seedloom::test;

namespace {

namespace fs = std::filesystem;

/// A pole along whatever way is plugged in, beside a wall; a control has the name of an input, and what is in the nest asks as well.
constexpr const char* kPole = R"({"seedloom": 1, "name": "Pole",
"controls": [
 {"id": "thick", "label": "Thick", "type": "number", "default": 0.1, "min": 0.05, "max": 0.5, "unit": "m"},
 {"id": "wall", "label": "Wall", "type": "boolean", "default": true},
 {"id": "stone", "label": "Stone", "type": "file", "default": ""}],
"nodes": [
 {"id": "way", "op": "input_geometry", "cell": [0, 0], "label": "The way", "settings": {"name": "way", "kind": "curve", "sample": "short.obj"}},
 {"id": "pole", "op": "sweep", "cell": [1, 0], "settings": {"form": "tube", "width": {"control": "thick"}, "columns": 6}},
 {"id": "inside", "op": "nest", "cell": [0, 1], "graph": {"nodes": [
   {"id": "wall", "op": "input_geometry", "cell": [0, 0], "settings": {"name": "wall", "kind": "mesh"}},
   {"id": "again", "op": "input_geometry", "cell": [0, 1], "settings": {"name": "way", "kind": "curve"}},
   {"id": "both", "op": "merge", "cell": [1, 0]}, {"id": "o", "op": "output", "cell": [2, 0]}],
   "links": [["wall", "both"], ["again", "both"], ["both", "o"]], "output": "o"}},
 {"id": "stone", "op": "input_geometry", "cell": [0, 2], "settings": {"name": "stone", "kind": "mesh", "sample": {"control": "stone"}}},
 {"id": "all", "op": "merge", "cell": [2, 0]},
 {"id": "out", "op": "output", "cell": [3, 0]}],
"links": [["way", "pole"], ["pole", "all"], ["inside", "all"], ["stone", "all"], ["all", "out"]], "output": "out"})";

constexpr const char *kShort = "v 0 0 0\nv 1 0 0\nl 1 2\n", *kLong = "v 0 0 0\nv 1 0 0\nv 5 0 0\nl 1 2 3\n",
                     *kTriangle = "v 0 0 0\nv 0 1 0\nv 0 0 7\nf 1 2 3\n";

VariedControl values(const char* control, std::vector<Json> list) { return {control, VariedControl::How::values, std::move(list), 0, 1, 1}; }

}  // namespace

class TestVaryInputs : public QObject {
    Q_OBJECT

    std::unique_ptr<QTemporaryDir> place_;
    fs::path path(const char* name) const { return place_->filePath(name).toStdString(); }
    void write(const char* name, std::string_view text) const { QVERIFY(!writeFileAtomically(path(name), text)); }
    FitSubject pole() const {
        FitSubject out;
        out.loom = std::make_shared<const Loom>(*loomFromText(kPole));
        out.folder = place_->path().toStdString();
        return withInputsAsControls(std::move(out));
    }
    std::vector<VaryRow> made(const FitSubject& subject, const std::vector<Variation>& variations) const {
        VaryOptions options;
        options.pictures = false, options.ending.clear();
        return vary(subject, variations, 1, *VaryFolder::open(path("out")), options).rows;
    }

private Q_SLOTS:
    void init() {
        place_ = std::make_unique<QTemporaryDir>();
        write("short.obj", kShort);
        write("long.obj", kLong);
        write("triangle.obj", kTriangle);
    }

    void eachInputIsAControl() {
        const Loom plain = *loomFromText(kPole), varied = withInputsAsControls(plain);
        QCOMPARE(varied.controls.size(), plain.controls.size() + 2);
        const Control *way = varied.control("way"), *wall = varied.control("wall_input");
        QVERIFY(way && wall);
        QCOMPARE(way->label, std::string("The way (input)"));
        QCOMPARE(wall->label, std::string("wall (input)"));
        QVERIFY(way->type == "file" && way->section == "Inputs" && way->fallback == Json("short.obj") && wall->fallback == Json(""));
        QVERIFY(way->help.find("'way'") != std::string::npos);
        // The one in the nest that asks for the same is given the same; what a control gives already stays with that.
        const Loom& inside = *varied.nodes[2].graph;
        QCOMPARE(Json(inside.nodes[0].settings["sample"]), (Json{{"control", "wall_input"}}));
        QCOMPARE(Json(inside.nodes[1].settings["sample"]), (Json{{"control", "way"}}));
        QCOMPARE(Json(varied.nodes[3].settings["sample"]), (Json{{"control", "stone"}}));
        // They still are inputs, and asking again adds nothing.
        QCOMPARE(pluggedNamesIn(varied), pluggedNamesIn(plain));
        QCOMPARE(withInputsAsControls(varied), varied);
        const Loom without = *loomFromText(R"({"seedloom": 1, "nodes": [{"id": "b", "op": "box"}], "output": "b"})");
        QCOMPARE(withInputsAsControls(without), without);
    }

    void namesThatAreNoWordsBecomeSome() {
        const auto idOf = [](const char* name) {
            Loom loom;
            Node node;
            node.id = "i", node.op = "input_geometry", node.settings = Json{{"name", name}};
            loom.nodes = {node};
            return withInputsAsControls(loom).controls.front().id;
        };
        QCOMPARE(idOf("Upper way"), std::string("upper_way"));
        QCOMPARE(idOf("2nd"), std::string("input_2nd"));
        QCOMPARE(idOf(""), std::string("input_"));
        // Words that tables mean something else by.
        QCOMPARE(idOf("n"), std::string("n_input"));
        QCOMPARE(idOf("file"), std::string("file_input"));
        QCOMPARE(idOf("preset"), std::string("preset_input"));
    }

    void aListOfFilesVariesAnInput() {
        const FitSubject subject = pole();
        VaryPlan plan;
        plan.controls = {values("way", {"short.obj", "long.obj"}), {"thick", VariedControl::How::steps, {}, 0.1, 0.3, 2}};
        const auto variations = variationsOf(plan, *subject.loom);
        QVERIFY(variations && variations->size() == 4);
        const auto rows = made(subject, *variations);
        for (const VaryRow& row : rows) QVERIFY2(row.ok, row.problem.c_str());
        QVERIFY(rows[2].size[0] > 4.9 && rows[0].size[0] < 2.1);
        QVERIFY(rows[0].digest != rows[1].digest && rows[0].digest != rows[2].digest);
        QCOMPARE(shownValue(*subject.loom->control("way"), "folder/long.obj"), std::string("long"));
        QCOMPARE(shownValue(*subject.loom->control("way"), ""), std::string("The way (input) –"));
        // As a table, which an index can be.
        const auto index = indexCsv(*subject.loom, rows);
        QVERIFY(index.starts_with("n,file,thick,wall,stone,way,wall_input,ok,"));
        const auto table = variationsFromTable(*subject.loom, "n,way,thick\n1,long.obj,0.2\n2,,0.4\n");
        QVERIFY(table && (*table)[0].given.at("way") == Json("long.obj") && !(*table)[1].given.count("way"));
        const auto axis = varyAxis(*subject.loom, "way=short.obj,long.obj");
        QVERIFY(axis && axis->values.size() == 2);
    }

    void aFileThatChangedIsMadeAnew() {
        const FitSubject subject = pole();
        const std::vector<Variation> one{{{}, {{"way", "long.obj"}}}};
        const auto before = made(subject, one);
        QCOMPARE(made(subject, one).front().digest, before.front().digest);
        write("long.obj", "v 0 0 0\nv 9 0 0\nl 1 2\n");
        const auto after = made(subject, one);
        QVERIFY(after.front().digest != before.front().digest && after.front().size[0] > 8.9);
        QVERIFY(after.front().key != before.front().key);
    }

    void whatCantBePluggedInSaysWhy() {
        const auto rows =
            made(pole(),
                 {{{}, {{"way", "gone.obj"}}}, {{}, {{"way", "triangle.obj"}}}, {{}, {{"wall_input", "long.obj"}}}, {{}, {{"wall_input", "triangle.obj"}}}});
        QVERIFY(!rows[0].ok && rows[0].problem.find("gone.obj") != std::string::npos);
        QVERIFY(!rows[1].ok && rows[1].problem.find("'triangle.obj' holds a mesh where curves are asked for") != std::string::npos);
        QVERIFY(rows[2].ok && rows[2].problem.find("holds curves where faces") != std::string::npos);
        QVERIFY(rows[3].ok && rows[3].size[2] > 6.9);
    }

    void oneIsPutToUse() {
        const Loom plain = *loomFromText(kPole);
        const Edit edit = useVaried(plain, {{"thick", 0.3}, {"way", "long.obj"}, {"wall_input", "triangle.obj"}});
        const auto after = applied(plain, edit);
        QVERIFY(after);
        QCOMPARE(after->values, (ControlValues{{"thick", 0.3}}));
        QCOMPARE(Json(after->nodes[0].settings["sample"]), Json("long.obj"));
        QCOMPARE(Json(after->nodes[2].graph->nodes[0].settings["sample"]), Json("triangle.obj"));
        QCOMPARE(Json(after->nodes[2].graph->nodes[1].settings["sample"]), Json("long.obj"));
        QCOMPARE(*applied(*after, inverse(edit)), plain);
        // Without inputs among the values these stay as they are.
        const Edit less = useVaried(plain, {{"thick", 0.3}});
        QCOMPARE(less.changes.size(), std::size_t(1));
        QVERIFY(useVaried(*after, {{"thick", 0.3}, {"way", "long.obj"}}).empty());
    }

    void aPackReadsWhatIsNamedBesideIt() {
        std::string text = kPole;
        const auto bytes = packedBytes({{kPackedLoom, text}, {"short.obj", kShort}, {kPackedManifest, R"({"loompack": 1, "name": "Pole"})"}});
        QVERIFY(bytes);
        fs::create_directories(path("shelf"));
        const auto read = fitSubjectFromPack(*bytes, "pole");
        QVERIFY2(read, read ? "" : read.error().text.c_str());
        FitSubject pack = withInputsAsControls(*read);
        std::vector<Variation> variations{{{}, {{"way", "short.obj"}}}, {{}, {{"way", "long.obj"}}}, {{}, {{"way", "elsewhere.obj"}}}, {}};
        // Without leave it reaches nothing outside.
        QVERIFY(!made(pack, {variations[1]}).front().ok);
        letReadFiles(pack, variations, place_->path().toStdString());
        QCOMPARE(variations[0].given.at("way"), Json("short.obj"));  // in the pack
        QCOMPARE(variations[1].given.at("way"), Json(path("long.obj").string()));
        const auto rows = made(pack, variations);
        QVERIFY(rows[0].ok && rows[1].ok && !rows[2].ok && rows[3].ok);
        QVERIFY(rows[1].size[0] > 4.9);
        QCOMPARE(rows[0].digest, rows[3].digest);
        // What nobody named stays out of reach.
        QVERIFY(!pack.files->read(path("triangle.obj")));
        QVERIFY(pack.files->read(path("long.obj")) && pack.files->stamp(path("long.obj")));
    }
};

QTEST_APPLESS_MAIN(TestVaryInputs)
#include "test_varyinputs.moc"

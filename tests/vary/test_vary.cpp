// Many variations of a loom: what they are, what is made of them in a folder, going on after a stop, and several programs in one folder.
#include "files/Csv.h"
#include "files/FileIo.h"
#include "files/PictureFile.h"
#include "formats/AssetShelf.h"
#include "formats/LoomFile.h"
#include "meshes/MeshFile.h"
#include "support/Run.h"
#include "vary/ContactSheet.h"
#include "vary/VaryRun.h"

#include <QtCore/QTemporaryDir>

#include <algorithm>
#include <thread>

using namespace seedloom;
using namespace seedloom::test;

namespace {

namespace fs = std::filesystem;

/// A plank: long and wide by numbers, of some kind, and above 1.5 not sound.
constexpr const char* kPlank = R"({"seedloom": 1, "name": "Plank 7", "version": "1.0.0",
"controls": [
 {"id": "long", "label": "Long", "type": "number", "default": 1, "min": 0.5, "max": 2, "unit": "m"},
 {"id": "wide", "label": "Wide", "type": "number", "default": 0.2, "min": 0.1, "max": 0.6, "unit": "m", "allowed_when": "ctl.wide < ctl.long * 0.5"},
 {"id": "count", "label": "Count", "type": "integer", "default": 1, "min": 1, "max": 4},
 {"id": "kind", "label": "Kind", "type": "choice", "default": "oak", "choices": ["oak", "pine, old"]},
 {"id": "open", "label": "Open", "type": "boolean", "default": false},
 {"id": "words", "label": "Words", "type": "text", "default": "Quay"},
 {"id": "tone", "label": "Tone", "type": "vec3", "default": [1, 0.5, 0]}],
"presets": [{"name": "Short one", "values": {"long": 0.6}}],
"values": {"long": 1.75},
"nodes": [
 {"id": "box", "op": "box", "cell": [0, 0], "settings": {"size": {"formula": "vec3(ctl.long, 0.1, ctl.wide) "},
  "cells": {"formula": "vec3(ctl.count, 1, 1) "}}},
 {"id": "less", "op": "delete", "cell": [1, 0], "settings": {"where": {"formula": "ctl.open ? normal.y > 0.5 : false"}}},
 {"id": "wall", "op": "transform", "cell": [2, 0]},
 {"id": "out", "op": "output", "cell": [3, 0]}],
"links": [["box", "less"], ["less", "wall"], ["wall", "out"]], "output": "out"})";

FitSubject subject(const std::string& text = kPlank) {
    auto loom = loomFromText(text);
    if (!loom) qFatal("%s", loom.error().text.c_str());
    FitSubject out;
    out.loom = std::make_shared<const Loom>(std::move(*loom));
    return out;
}

/// Without what depends on the machine.
std::vector<VaryRow> timeless(std::vector<VaryRow> rows) {
    for (VaryRow& row : rows) row.ms = 0;
    return rows;
}

template <class T> std::string codeOf(const Result<T>& result) { return result ? std::string() : result.error().code; }

std::vector<double> numbersOf(const std::vector<Variation>& all, const char* control) {
    std::vector<double> out;
    for (const Variation& one : all) out.push_back(one.given.at(control).get<double>());
    return out;
}

}  // namespace

class TestVary : public QObject {
    Q_OBJECT

    std::unique_ptr<QTemporaryDir> place_;
    fs::path path(const char* name) const { return place_->filePath(name).toStdString(); }
    VaryFolder folder(const char* name = "out") const { return *VaryFolder::open(path(name)); }

private Q_SLOTS:
    void init() { place_ = std::make_unique<QTemporaryDir>(); }

    void gridsAreAllCombinations() {
        const FitSubject plank = subject();
        const Loom& loom = *plank.loom;
        const auto longs = varyAxis(loom, "long=0.6:1.6:3"), kinds = varyAxis(loom, "kind=oak");
        QVERIFY(longs && kinds);
        QCOMPARE(longs->values, (std::vector<Json>{0.6, 1.1, 1.6}));
        const auto counts = varyAxis(loom, "count=1:4:7");
        QCOMPARE(counts->values, (std::vector<Json>{1, 2, 3, 4}));  // whole numbers come once
        QCOMPARE(varyAxis(loom, "long=0.7:2:1")->values, (std::vector<Json>{0.7}));
        QCOMPARE(varyAxis(loom, "open=true,false")->values, (std::vector<Json>{true, false}));
        const auto all = variationsOfGrid({*longs, *kinds, *counts});
        QCOMPARE(all->size(), std::size_t(12));
        QCOMPARE((*all)[5].given, (ControlValues{{"long", 1.1}, {"kind", "oak"}, {"count", 2}}));
        QCOMPARE(variationsOfGrid({})->size(), std::size_t(1));
        for (const char* wrong : {"long", "=1", "long=", "long=1:2", "long=1:2:0", "long=1:2:2.5", "long=a:2:3", "long=1:2:3:4", "long=nan:2:3"})
            QVERIFY2(!varyAxis(loom, wrong), wrong);
        QCOMPARE(codeOf(varyAxis(loom, "high=1:2:3")), std::string("control.unknown"));
        QCOMPARE(codeOf(varyAxis(loom, "long=1:9:3")), std::string("control.range"));
        QCOMPARE(codeOf(varyAxis(loom, "kind=ash")), codeOf(controlValueFromText(*loom.control("kind"), "ash")));
        QCOMPARE(codeOf(varyAxis(loom, "long=1:2:1000000000")), std::string("vary.count"));
        VaryAxis hundred{"long", std::vector<Json>(101, 1.0)}, other{"wide", std::vector<Json>(100, 0.2)};
        const auto tooMany = variationsOfGrid({hundred, other});
        QVERIFY(codeOf(tooMany) == "vary.count" && tooMany.error().text.find("10100") != std::string::npos);
        QCOMPARE(codeOf(variationsOfGrid({*longs, *longs})), std::string("vary.axis"));
    }

    void tablesAreRead() {
        const FitSubject plank = subject();
        const Loom& loom = *plank.loom;
        const auto rows = variationsFromTable(
            loom, "\xEF\xBB\xBFlong,kind,open,n,words,preset,tone\r\n0.75,\"pine, old\",true,9,\"say \"\"hi\"\"\",,\"1,0,0.25\"\r\n\r\n,,,,,Short one,\n2");
        QVERIFY2(bool(rows), rows ? "" : rows.error().text.c_str());
        QCOMPARE(rows->size(), std::size_t(3));
        QCOMPARE((*rows)[0].given, (ControlValues{{"long", 0.75}, {"kind", "pine, old"}, {"open", true}, {"words", "say \"hi\""}, {"tone", {1.0, 0.0, 0.25}}}));
        QCOMPARE((*rows)[1], (Variation{"Short one", {}}));
        QCOMPARE((*rows)[2].given, (ControlValues{{"long", 2.0}}));
        const auto refused = [&](const char* text, const char* code, const char* says) {
            const auto result = variationsFromTable(loom, text);
            if (result) return QByteArray("taken");
            const std::string& said = result.error().text;
            return result.error().code == code && said.find(says) != std::string::npos ? QByteArray()
                                                                                       : QByteArray::fromStdString(result.error().code + ": " + said);
        };
        QCOMPARE(refused("", "vary.table", "empty"), QByteArray());
        QCOMPARE(refused("long,high\n1,2", "vary.table", "Column 2"), QByteArray());
        QCOMPARE(refused("long,long\n1,2", "vary.table", "second time"), QByteArray());
        QCOMPARE(refused("long\n1\n1,2", "vary.table", "Row 2"), QByteArray());
        QCOMPARE(refused("long\n1\n9", "control.range", "Row 2, column 1"), QByteArray());
        QCOMPARE(refused("long,kind\n1,oak\n1,\"", "vary.table", "Line 3"), QByteArray());
        QCOMPARE(refused("preset\nTall", "vary.table", "Tall"), QByteArray());
        QCOMPARE(refused(("long\n" +
                          [] {
                              std::string many;
                              for (int i = 0; i < 10001; ++i) many += "1\n";
                              return many;
                          }())
                             .c_str(),
                         "vary.count", "10001"),
                 QByteArray());
        // An index is a table as well: what became of its rows is left out, but where a control is called so.
        const std::string index = indexCsv(loom, {VaryRow{7, {}, {{"long", 0.75}, {"kind", "pine, old"}}}});
        const auto again = variationsFromTable(loom, index);
        QVERIFY2(bool(again), again ? "" : again.error().text.c_str());
        QCOMPARE((*again)[0].given, (ControlValues{{"long", 0.75}, {"kind", "pine, old"}}));
        Loom counted = loom;
        counted.controls[2].id = "faces";
        QCOMPARE((*variationsFromTable(counted, "faces,ms\n3,17\n"))[0].given, (ControlValues{{"faces", 3}}));
        QCOMPARE(codeOf(variationsFromTable(loom, "long,mass\n1,2\n")), std::string("vary.table"));
        // What is written is read again.
        for (const char* text : {"plain", "a,b", "say \"x\"", "two\nlines", ""}) {
            const auto again = csvRows("h\n" + csvCell(text) + ",x\n");
            QCOMPARE((*again)[1][0], std::string(text));
        }
    }

    void chanceCoversTheRanges() {
        const FitSubject plank = subject();
        const Loom& loom = *plank.loom;
        const auto all = variationsByChance(loom, 200, 3);
        QCOMPARE(all->size(), std::size_t(200));
        // More of them never change the first ones; another seed gives others.
        const auto few = variationsByChance(loom, 20, 3), others = variationsByChance(loom, 20, 4);
        QVERIFY(std::equal(few->begin(), few->end(), all->begin()) && *few != *others);
        Loom plain = loom;
        plain.values.clear();
        std::set<std::string> kinds, opens;
        for (const Variation& one : *all) {
            QVERIFY(controlValues(plain, {{}, one.given}));
            QVERIFY(!one.given.contains("words") && !one.given.contains("tone"));
            kinds.insert(one.given.at("kind")), opens.insert(one.given.at("open").dump());
        }
        QVERIFY(kinds.size() == 2 && opens.size() == 2);
        // Evenly: of a loom without conditions, each tenth of a range has its share from the first on.
        Loom free = plain;
        for (Control& control : free.controls) control.allowedWhen.clear();
        const auto even = variationsByChance(free, 100, 1);
        std::array<int, 10> tenths{};
        for (const double value : numbersOf(*even, "long")) ++tenths[std::min<std::size_t>(9, std::size_t((value - 0.5) / 0.15))];
        QVERIFY2(*std::min_element(tenths.begin(), tenths.end()) >= 8 && *std::max_element(tenths.begin(), tenths.end()) <= 12, "tenths");
        std::array<int, 4> counts{};
        for (const double value : numbersOf(*even, "count")) ++counts[std::size_t(value) - 1];
        QVERIFY(*std::min_element(counts.begin(), counts.end()) >= 22 && *std::max_element(counts.begin(), counts.end()) <= 28);
        // Two controls together as well: each quarter by quarter.
        std::array<int, 16> cells{};
        const auto longs = numbersOf(*even, "long"), wides = numbersOf(*even, "wide");
        for (std::size_t i = 0; i < longs.size(); ++i)
            ++cells[std::min<std::size_t>(3, std::size_t((longs[i] - 0.5) / 0.375)) * 4 + std::min<std::size_t>(3, std::size_t((wides[i] - 0.1) / 0.125))];
        QVERIFY2(*std::min_element(cells.begin(), cells.end()) >= 3 && *std::max_element(cells.begin(), cells.end()) <= 10, "cells");
        QCOMPARE(codeOf(variationsByChance(loom, 10'001, 1)), std::string("vary.count"));
        QVERIFY(variationsByChance(loom, 0, 1)->empty());
        Loom fixed = plain;
        fixed.controls = {*plain.control("words")};
        QCOMPARE(codeOf(variationsByChance(fixed, 3, 1)), std::string("vary.nothing"));
        // Where nothing is allowed, it ends.
        plain.controls[1].allowedWhen = "ctl.wide == 0.2";
        QVERIFY(variationsByChance(plain, 5, 1)->empty());
    }

    void aFolderHoldsWhatWasMade() {
        const FitSubject plank = subject();
        const auto all = *variationsFromTable(*plank.loom, "long,open,count,preset\n0.8,,2,\n,true,,\n9e-1,,,\n,,,Short one\n");
        VaryFolder out = folder();
        std::vector<std::size_t> told;
        VaryOptions options;
        options.ending = ".obj", options.jobs = 2;
        options.onRow = [&](const VaryRow& row) { told.push_back(row.number); };
        const VaryOutcome made = vary(plank, all, 1, out, options);
        QVERIFY2(!made.problem, made.problem ? made.problem->text.c_str() : "");
        QVERIFY(made.made == 4 && made.kept == 0 && told.size() == 4 && made.rows.size() == 4);
        const VaryRow& first = made.rows[0];
        QVERIFY2(first.ok, first.problem.c_str());
        QVERIFY(first.ok && first.number == 1 && first.file == "Plank-7-0001.obj" && first.closed && first.triangles == 20);
        QVERIFY(std::abs(first.size[0] - 0.8) < 1e-6 && std::abs(first.volume - 0.8 * 0.1 * 0.2) < 1e-6);
        // Values in use don't count, those that were not given are there all the same.
        QCOMPARE(made.rows[1].values.at("long"), Json(1));
        QVERIFY(!made.rows[1].closed && made.rows[1].volume == 0);
        QVERIFY(std::abs(made.rows[3].size[0] - 0.6) < 1e-6 && made.rows[3].variation.preset == "Short one");
        const auto model = readMesh(out / first.file);
        QVERIFY(model && model->faceCount() == first.faces);
        QCOMPARE(pictureSizeFromBytes(*readFile(out / first.picture))->at(0), 192);
        // Again, all is kept; a file that is gone is made anew, and a changed loom, pattern or format makes all.
        QVERIFY(vary(plank, all, 1, out, options).kept == 4);
        fs::remove(out / first.file);
        QCOMPARE(vary(plank, all, 1, out, options).made, std::size_t(1));
        QVERIFY(timeless(vary(plank, all, 1, out, options).rows) == timeless(made.rows));
        Loom other = *plank.loom;
        other.nodes[2].skipped = true, other.nodes[0].settings["size"] = Json{{"formula", "vec3(ctl.long, 0.2, ctl.wide) "}};
        FitSubject changed = plank;
        changed.loom = std::make_shared<const Loom>(other);
        QCOMPARE(vary(changed, all, 1, out, options).made, std::size_t(4));
        options.pattern = "{n}-{kind}-{preset}-{long}";
        QCOMPARE(vary(changed, all, 1, out, options).rows[0].file, std::string("0001-oak--0.8.obj"));
        options.ending.clear(), options.pictures = false;
        const auto bare = vary(changed, all, 1, folder("bare"), options);
        QVERIFY(bare.made == 4 && bare.rows[0].file.empty() && bare.rows[0].picture.empty() && !bare.rows[0].digest.empty());
        // A record of something else is not taken for one.
        QVERIFY(!writeFileAtomically(path("bare") / "rows/00002.json", "{\"n\": 2}"));
        QVERIFY(!folder("bare").done(2));
        QCOMPARE(vary(changed, all, 1, folder("bare"), options).made, std::size_t(1));
        QCOMPARE(folder("bare").numbers(), (std::vector<std::size_t>{1, 2, 3, 4}));
    }

    void whatFailsIsARowThatSaysWhy() {
        Json json = Json::parse(kPlank);
        json["nodes"][2] = {{"id", "wall"}, {"op", "simplify"}, {"cell", {2, 0}}, {"settings", {{"target", {{"formula", "ctl.long > 1.5 ? -1 : 12"}}}}}};
        const FitSubject plank = subject(json.dump());
        const auto all = *variationsFromTable(*plank.loom, "long,wide\n1,\n1.9,\n0.5,0.6\n");
        const VaryOutcome made = vary(plank, all, 1, folder(), {});
        QVERIFY(made.made == 3 && !made.problem);
        QVERIFY(made.rows[0].ok && !made.rows[1].ok && !made.rows[2].ok);
        QVERIFY2(made.rows[1].problem.find("wall") == 0 && made.rows[1].file.empty(), made.rows[1].problem.c_str());
        QVERIFY2(made.rows[2].problem.find("must hold") != std::string::npos, made.rows[2].problem.c_str());
        QCOMPARE(made.rows[2].values.at("wide"), Json(0.6));
        // What is only warned of is made, and the warning told.
        Json thin = Json::parse(kPlank);
        thin["nodes"][2]["op"] = "thicken";
        thin["nodes"][2]["settings"] = {{"thickness", 0.3}};
        const auto warned = vary(subject(thin.dump()), {{}}, 1, folder("warned"), {}).rows;
        QVERIFY2(warned[0].ok && !warned[0].file.empty() && warned[0].problem.find("wall: ") == 0, warned[0].problem.c_str());
        // It is done, and not tried again.
        QCOMPARE(vary(plank, all, 1, folder(), {}).kept, std::size_t(3));
        const std::string index = indexCsv(*plank.loom, made.rows);
        const auto cells = *csvRows(index);
        QCOMPARE(cells.size(), std::size_t(4));
        QCOMPARE(std::vector<std::string>(cells[0].begin(), cells[0].begin() + 4), (std::vector<std::string>{"n", "file", "long", "wide"}));
        QVERIFY(cells[2][1].empty() && cells[2][9] == "false" && cells[3][3] == "0.6" && cells[1][6] == "false" && cells[1][8] == "1,0.5,0");
        for (const auto& row : cells) QCOMPARE(row.size(), cells[0].size());
        // An index can be varied again.
        const FitSubject same = subject();
        std::string columns;
        for (std::size_t c = 0; c < 9; ++c) columns += (c ? "," : "") + cells[0][c];
        columns += "\n";
        for (std::size_t c = 0; c < 9; ++c) columns += (c ? "," : "") + csvCell(cells[1][c]);
        QVERIFY2(bool(variationsFromTable(*same.loom, columns)),
                 variationsFromTable(*same.loom, columns) ? "" : variationsFromTable(*same.loom, columns).error().text.c_str());
    }

    void aStopKeepsWhatIsDone() {
        const FitSubject plank = subject();
        const auto all = *variationsByChance(*plank.loom, 30, 1);
        std::atomic<bool> cancel{false};
        VaryOptions options;
        options.cancel = &cancel, options.jobs = 1, options.ending = ".ply";
        std::size_t seen = 0;
        options.onRow = [&](const VaryRow&) { cancel = ++seen == 7; };
        const VaryOutcome stopped = vary(plank, all, 1, folder(), options);
        QCOMPARE(stopped.rows.size(), std::size_t(7));
        cancel = false;
        options.onRow = {};
        const VaryOutcome rest = vary(plank, all, 1, folder(), options);
        QVERIFY(rest.kept == 7 && rest.made == 23);
        // The same as in one go, whatever the number of jobs, but for times.
        options.jobs = 2;
        const VaryOutcome whole = vary(plank, all, 1, folder("whole"), options);
        QVERIFY(timeless(rest.rows) == timeless(whole.rows));
        for (const VaryRow& row : whole.rows)
            if (!row.file.empty()) QVERIFY(*readFile(folder() / row.file) == *readFile(folder("whole") / row.file));
    }

    void twoInOneFolderDoNoHarm() {
        const FitSubject plank = subject();
        const auto all = *variationsByChance(*plank.loom, 40, 2);
        VaryOptions options;
        options.jobs = 1, options.ending = ".stl";
        VaryOutcome first, second;
        std::thread other([&] { first = vary(plank, all, 1, folder(), options); });
        second = vary(plank, all, 1, folder(), options);
        other.join();
        QVERIFY(!first.problem && !second.problem);
        // Each row is made by one of them; what one leaves to the other is said.
        QCOMPARE(first.made + second.made, std::size_t(40));
        QCOMPARE(first.made + first.kept + first.elsewhere, std::size_t(40));
        QCOMPARE(vary(plank, all, 1, folder(), options).kept, std::size_t(40));
        // A row that somebody holds is left to him; let go, it is made.
        auto claim = folder("held").claim(3);
        QVERIFY(claim && !folder("held").claim(3) && folder("held").claim(4));
        QCOMPARE(vary(plank, all, 1, folder("held"), options).elsewhere, std::size_t(1));
        claim.reset();
        const auto rest = vary(plank, all, 1, folder("held"), options);
        QVERIFY(rest.made == 1 && rest.elsewhere == 0 && rest.kept == 39);
    }

    void aFileThatIsReadIsPartOfEachRow() {
        QVERIFY(!writeFileAtomically(path("tile.obj"), "v 0 0 0\nv 1 0 0\nv 1 1 0\nf 1 2 3\n"));
        FitSubject tiles = subject(R"({"seedloom": 1, "name": "Tiles", "controls": [{"id": "n", "type": "integer", "default": 1, "min": 1, "max": 3}],
            "nodes": [{"id": "m", "op": "import_mesh", "settings": {"file": "tile.obj"}}, {"id": "o", "op": "output"}],
            "links": [["m", "o"]], "output": "o"})");
        tiles.folder = place_->path().toStdString();
        const std::vector<Variation> one{{}};
        const std::string before = vary(tiles, one, 1, folder(), {}).rows[0].digest;
        QCOMPARE(vary(tiles, one, 1, folder(), {}).kept, std::size_t(1));
        QVERIFY(!writeFileAtomically(path("tile.obj"), "v 0 0 0\nv 2 0 0\nv 2 2 0\nv 0 2 0\nf 1 2 3 4\n"));
        const auto again = vary(tiles, one, 1, folder(), {});
        QVERIFY(again.made == 1 && again.rows[0].digest != before);
    }

    void whatCantBeWrittenEndsTheRun() {
        const FitSubject plank = subject();
        VaryOptions options;
        options.ending = ".glb", options.pattern = "{n}";
        VaryFolder out = folder();
        fs::create_directories(out / "0001.glb");
        const VaryOutcome made = vary(plank, {{}, {}}, 1, out, options);
        QVERIFY(made.problem && !out.done(1));
        QVERIFY(!writeFileAtomically(path("file"), ""));
        QVERIFY(!VaryFolder::open(path("file") / "in"));
        const Loom& loom = *plank.loom;
        QCOMPARE(codeOf(variationName("{name}", loom, 1, {}, {})), std::string("vary.pattern"));
        QCOMPARE(codeOf(variationName("{n}{colour}", loom, 1, {}, {})), std::string("vary.pattern"));
        QCOMPARE(*variationName("../{name}/{n}-{words}", loom, 12, {}, {{"words", "a/b"}}), std::string("..-Plank-7-0012-a-b"));
    }

    void contactSheetsShowAll() {
        const FitSubject plank = subject();
        const auto all = *variationsFromTable(*plank.loom, "long,wide\n0.8,\n1.5,\n0.5,0.6\n");
        const auto rows = vary(plank, all, 1, folder(), {}).rows;
        QCOMPARE(differingText(*plank.loom, rows, rows[0]), std::string("0.8 m · 0.2 m"));
        QCOMPARE(differingText(*plank.loom, {rows[0]}, rows[0]), std::string("1"));
        const Picture page = contactPicture(*plank.loom, folder(), rows);
        QVERIFY(page.width == 2 * 24 + 8 * 204 - 12 && page.height == 24 + 64 + 188 + 12 + 24);
        const auto ink = std::count_if(page.pixels.begin(), page.pixels.end(), [](Colour c) { return c.r < 100; });
        QVERIFY(ink > 500);
        std::vector<VaryRow> many(450, rows[0]);
        QCOMPARE(contactPicture(*plank.loom, folder(), many).height, contactPicture(*plank.loom, folder(), std::vector<VaryRow>(400, rows[0])).height);
        const std::string html = contactHtml(*plank.loom, rows);
        QVERIFY(html.find("pictures/00001.png") != std::string::npos && html.find("must hold") != std::string::npos && html.find("http") == std::string::npos);
        for (const VaryRow& row : rows) QCOMPARE(*rowFromJson(rowJson(row)), row);
    }
};

QTEST_APPLESS_MAIN(TestVary)
#include "test_vary.moc"

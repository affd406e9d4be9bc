// The project's own rules: layers, generated documents, demo files.
#include "cli/Reference.h"
#include "files/FileIo.h"
#include "files/Version.h"
#include "formats/AssetShelf.h"
#include "formats/LoomFile.h"
#include "graph/Controls.h"
#include "graph/OperatorSample.h"
#include "operators/Catalogue.h"

#include <QtTest/QtTest>

#include <filesystem>
#include <map>
#include <regex>
#include <set>
#include <sstream>

using namespace seedloom;
namespace fs = std::filesystem;

namespace {

const fs::path kSource = SEEDLOOM_SOURCE;
/// The list of layers: for each folder its line, lowest first. Those of the application come last.
std::map<std::string, int> layers() {
    std::map<std::string, int> out;
    std::istringstream lines(*readFile(kSource / "cmake" / "layers.txt"));
    int rank = 0;
    for (std::string line; std::getline(lines, line); ++rank) {
        if (line.empty() || line[0] == '#') continue;
        std::istringstream names(line);
        for (std::string name; names >> name;) out[name] = rank;
    }
    return out;
}

/// The layer that a path below src/ lies in, as far as the list tells folders apart; empty where it lies in none.
std::string layerOf(const std::string& path, const std::map<std::string, int>& known) {
    for (std::size_t end = path.rfind('/'); end != std::string::npos && end > 0; end = path.rfind('/', end - 1))
        if (known.count(path.substr(0, end))) return path.substr(0, end);
    return {};
}

void noteOperators(const Loom& loom, std::set<std::string>& used) {
    for (const Node& node : loom.nodes) {
        used.insert(node.op);
        if (node.graph) noteOperators(*node.graph, used);
    }
}

}  // namespace

class TestProject : public QObject {
    Q_OBJECT

private Q_SLOTS:
    /// A folder may include only itself and those below it in cmake/layers.txt; none but the application knows Qt.
    void layersOnlyLookDown() {
        const auto known = layers();
        QVERIFY(known.size() > 12);
        const std::regex include("#include [\"<]([A-Za-z0-9_/]+)(\\.h)?[\">]");
        int checked = 0;
        for (const auto& entry : fs::recursive_directory_iterator(kSource / "src")) {
            const std::string ending = entry.path().extension();
            if (ending != ".cpp" && ending != ".h") continue;
            const std::string path = fs::relative(entry.path(), kSource / "src").string(), layer = layerOf(path, known);
            if (path == "app/main.cpp") continue;  // it puts all together
            QVERIFY2(!layer.empty(), (path + " lies in no layer of cmake/layers.txt").c_str());
            const std::string text = *readFile(entry.path());
            for (std::sregex_iterator it(text.begin(), text.end(), include), end; it != end; ++it) {
                const std::string target = (*it)[1], to = layerOf(target, known);
                ++checked;
                if (!to.empty() && to != layer) QVERIFY2(known.at(to) < known.at(layer), (path + " includes " + target).c_str());
                if (target.rfind("Qt", 0) == 0 || (target.size() > 1 && target[0] == 'Q' && std::isupper(target[1])))
                    QVERIFY2(layer.rfind("app", 0) == 0, (path + " includes Qt").c_str());
            }
        }
        QVERIFY(checked > 300);
    }

    /// The document shows the layers in the order in which they are.
    void theArchitectureNamesTheLayersInTheirOrder() {
        const auto known = layers();
        std::vector<std::pair<int, std::string>> order;
        for (const auto& [name, rank] : known) order.push_back({rank, name});
        std::sort(order.begin(), order.end());
        const std::string text = *readFile(kSource / "docs" / "architecture.md");
        std::size_t before = 0;
        int rank = -1;
        for (const auto& [line, name] : order) {
            const std::size_t at = text.find("| `" + name + "/`");
            QVERIFY2(at != std::string::npos, ("docs/architecture.md has no row for " + name).c_str());
            QVERIFY2(line == rank || at > before, ("docs/architecture.md has " + name + " in another place").c_str());
            before = std::max(before, at), rank = line;
        }
    }

    void theVersionIsTheProjects() {
        const std::string text = *readFile(kSource / "CMakeLists.txt");
        QVERIFY(text.find(std::string("project(SeedLoom VERSION ") + kVersion + " ") != std::string::npos);
    }

    void theOperatorReferenceIsUpToDate() {
        const auto written = readFile(kSource / "docs" / "operators.md");
        QVERIFY(bool(written));
        QVERIFY2(*written == operatorReference(), "docs/operators.md is stale: run scripts/update-reference");
        const auto schema = readFile(kSource / "docs" / "loom.schema.json");
        QVERIFY(bool(schema));
        QVERIFY2(*schema == loomSchema(), "docs/loom.schema.json is stale: run scripts/update-reference");
    }

    void demoLoomsAreWrittenAsSavedAndComplete() {
        std::set<std::string> used;
        for (const auto& entry : fs::directory_iterator(kSource / "demo")) {
            if (entry.path().extension() != ".loom") continue;
            const auto loom = readLoom(entry.path());
            QVERIFY2(bool(loom), entry.path().c_str());
            QVERIFY(loomProblems(*loom, assetsOf(*loom, kSource / "demo")).empty());
            QVERIFY2(*readFile(entry.path()) == loomToText(*loom), (entry.path().string() + ": run seedloom-cli format on it").c_str());
            QVERIFY2(loom->controls.size() >= 4 && loom->controls.size() <= 9, entry.path().c_str());
            QVERIFY(loom->presets.size() >= 3);
            QVERIFY(loom->extra.contains("help"));
            for (const Preset& preset : loom->presets) QVERIFY(bool(controlValues(*loom, {preset.name, {}})));
            noteOperators(*loom, used);
        }
        for (const OperatorSpec& spec : catalogue()) QVERIFY2(used.count(spec.id), (spec.id + " has no place in a demo").c_str());
    }

    /// A picture of every operator that can show something by itself stands in the reference.
    void everyOperatorHasAPicture() {
        for (const OperatorSpec& spec : catalogue())
            if (!operatorSample(spec.id).empty())
                QVERIFY2(fs::exists(kSource / "docs" / "operators" / (spec.id + ".png")), (spec.id + ": run scripts/update-reference").c_str());
    }

    void everyPackageIsListedOnce() {
        const QStringList lines = QString::fromStdString(*readFile(kSource / "scripts" / "packages.txt")).split('\n', Qt::SkipEmptyParts);
        QCOMPARE(QSet<QString>(lines.begin(), lines.end()).size(), lines.size());
        for (const char* needed : {"g++", "cmake", "libosd-dev", "libcgal-dev", "xvfb", "xauth", "qt6-base-dev"}) QVERIFY2(lines.contains(needed), needed);
    }
};

QTEST_APPLESS_MAIN(TestProject)
#include "test_project.moc"

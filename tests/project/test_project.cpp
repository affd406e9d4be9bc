// The project's own rules: layers, generated documents, demo files.
#include "cli/Reference.h"
#include "formats/LoomFile.h"
#include "graph/Controls.h"
#include "meshes/FileIo.h"
#include "operators/Catalogue.h"
#include "render/OperatorSample.h"

#include <QtTest/QtTest>

#include <filesystem>
#include <regex>
#include <set>

using namespace seedloom;
namespace fs = std::filesystem;

namespace {

const fs::path kSource = SEEDLOOM_SOURCE;
const std::vector<std::string> kLayers{"geometry",  "parallel", "surface", "fields", "scatter", "meshes",
                                       "operators", "graph",    "formats", "render", "cli",     "app"};

void noteOperators(const Loom& loom, std::set<std::string>& used) {
    for (const Node& node : loom.nodes) {
        used.insert(node.op);
        if (node.graph) noteOperators(*node.graph, used);
    }
}

int rankOf(const std::string& layer) { return int(std::find(kLayers.begin(), kLayers.end(), layer) - kLayers.begin()); }

}  // namespace

class TestProject : public QObject {
    Q_OBJECT

private Q_SLOTS:
    /// A folder may include only itself and those before it; none but the application knows Qt.
    void layersOnlyLookUp() {
        const std::regex include("#include [\"<]([A-Za-z]+)/?[^\">]*[\">]");
        int checked = 0;
        for (const auto& entry : fs::recursive_directory_iterator(kSource / "src")) {
            const std::string ending = entry.path().extension();
            if (ending != ".cpp" && ending != ".h") continue;
            const std::string layer = fs::relative(entry.path(), kSource / "src").begin()->string();
            QVERIFY2(rankOf(layer) < int(kLayers.size()), entry.path().c_str());
            const std::string text = *readFile(entry.path());
            for (std::sregex_iterator it(text.begin(), text.end(), include), end; it != end; ++it) {
                const std::string target = (*it)[1];
                ++checked;
                if (rankOf(target) < int(kLayers.size())) QVERIFY2(rankOf(target) <= rankOf(layer), (entry.path().string() + " includes " + target).c_str());
                if (target.rfind("Qt", 0) == 0 || (target.size() > 1 && target[0] == 'Q' && std::isupper(target[1])))
                    QVERIFY2(layer == "app", (entry.path().string() + " includes Qt").c_str());
            }
        }
        QVERIFY(checked > 300);
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
            QVERIFY(loomProblems(*loom).empty());
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

#include "graph/Importing.h"

#include "files/PictureFile.h"
#include "meshes/MeshFile.h"
#include "meshes/OutlineFile.h"

#include <algorithm>
#include <cmath>

namespace seedloom {

namespace {

/// "old-quay_stone" as "Old quay stone".
std::string nameOfFile(const std::string& file) {
    std::string out = std::filesystem::path(file).stem().string();
    for (char& c : out)
        if (c == '-' || c == '_') c = ' ';
    if (!out.empty()) out[0] = char(std::toupper(static_cast<unsigned char>(out[0])));
    return out;
}

constexpr double kLongSide = 1;  // of a sheet that shows a picture, in metres
constexpr int kMostCells = 240;  // along it

bool hasEnding(const std::filesystem::path& file, const std::vector<std::string>& endings) {
    std::string own = file.extension().string();
    for (char& c : own) c = char(std::tolower(static_cast<unsigned char>(c)));
    return std::find(endings.begin(), endings.end(), own) != endings.end();
}

/// Builds the new loom, one node after the other.
class Importer {
public:
    explicit Importer(const FileSource& files) : files_(files) {}

    Loom loomOf(const std::vector<ImportedFile>& imported) {
        if (!imported.empty()) loom_.name = nameOfFile(imported.front().file);
        for (const ImportedFile& file : imported) add(file);
        const bool several = parts_.size() > 1;
        int column = 0;
        for (const Node& node : loom_.nodes) column = std::max(column, node.cell.column + 1);
        const std::string last = several ? node("merge", {column++, 0}).id : parts_.empty() ? std::string() : parts_.front();
        if (several)
            for (const std::string& part : parts_) link(part, last);
        loom_.output = node("output", {column, 0}).id;
        if (!last.empty()) link(last, loom_.output);
        return std::move(loom_);
    }

private:
    Node& node(const std::string& op, Cell cell, std::map<std::string, Json> settings = {}) {
        Node node;
        node.id = loom_.freeNodeId(op);
        node.op = op;
        node.cell = cell;
        for (auto& [id, value] : settings) node.settings[id] = std::move(value);
        loom_.nodes.push_back(std::move(node));
        return loom_.nodes.back();
    }
    void link(const std::string& from, const std::string& to) { loom_.links.push_back({from, "", to, "", Json::object()}); }
    /// A row of its own for each file.
    void add(const ImportedFile& file) {
        const int row = int(parts_.size());
        std::string last = begin(file, row);
        int column = 1;
        const auto then = [&](const std::string& op, std::map<std::string, Json> settings) {
            const std::string next = node(op, {column++, row}, std::move(settings)).id;
            link(last, next);
            last = next;
        };
        if (file.as == ImportedAs::solid) {
            then("fill_curve", {});
            then("extrude", {{"distance", 0.05}, {"keep_back", true}});
        } else if (file.as == ImportedAs::relief) {
            then("projected_texture", {{"file", file.file}, {"as", "relief"}, {"even", false}});
        } else if (file.as == ImportedAs::colours) {
            then("projected_texture", {{"file", file.file}, {"even", false}});
        }
        parts_.push_back(last);
    }
    std::string begin(const ImportedFile& file, int row) {
        if (file.as == ImportedAs::relief || file.as == ImportedAs::colours) return sheet(file.file, row);
        Node& out = node(file.as == ImportedAs::mesh ? "import_mesh" : "outline_file", {0, row}, {{"file", file.file}});
        out.label = nameOfFile(file.file);
        return out.id;
    }
    /// A grid of the picture's shape, as fine as the picture, or as can be looked at fluently.
    std::string sheet(const std::string& file, int row) {
        std::array<int, 2> size{1, 1};
        if (const auto bytes = files_.read(file))
            if (const auto read = pictureSizeFromBytes(*bytes)) size = *read;
        const int most = std::max(size[0], size[1]);
        const double share = double(std::min(most, kMostCells)) / most;
        const auto metres = [&](int side) { return std::round(kLongSide * side / most * 1000) / 1000; };
        const auto cells = [&](int side) { return std::max(1, int(std::lround(side * share))); };
        return node("grid", {0, row},
                    {{"size", Json::array({std::max(metres(size[0]), 0.001), std::max(metres(size[1]), 0.001)})},
                     {"cells", Json::array({cells(size[0]), cells(size[1])})}})
            .id;
    }

    const FileSource& files_;
    Loom loom_;
    std::vector<std::string> parts_;
};

}  // namespace

std::vector<ImportedAs> importsOf(const std::filesystem::path& file) {
    if (isReadable(file)) return {ImportedAs::mesh};
    if (hasEnding(file, outlineEndings())) return {ImportedAs::solid, ImportedAs::curves};
    if (hasEnding(file, pictureEndings())) return {ImportedAs::relief, ImportedAs::colours};
    return {};
}

std::optional<Error> importProblem(const std::filesystem::path& file, const FileSource& files) {
    const auto first = importsOf(file);
    if (first.empty() || first.front() == ImportedAs::mesh) return {};
    const auto bytes = files.read(file);
    if (!bytes) return bytes.error();
    if (first.front() == ImportedAs::solid) {
        const auto drawing = outlinesFromSvg(*bytes);
        return drawing ? std::nullopt : std::optional(drawing.error());
    }
    const auto size = pictureSizeFromBytes(*bytes);
    return size ? std::nullopt : std::optional(size.error());
}

Loom loomImporting(const std::vector<ImportedFile>& imported, const FileSource& files) { return Importer(files).loomOf(imported); }

}  // namespace seedloom

#include "graph/Importing.h"

#include <filesystem>

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

Node& added(Loom& loom, const std::string& op, Cell cell) {
    Node node;
    node.id = loom.freeNodeId(op);
    node.op = op;
    node.cell = cell;
    loom.nodes.push_back(std::move(node));
    return loom.nodes.back();
}

}  // namespace

Loom loomImporting(const std::vector<std::string>& files) {
    Loom loom;
    if (!files.empty()) loom.name = nameOfFile(files.front());
    std::vector<std::string> parts;
    for (const std::string& file : files) {
        Node& node = added(loom, "import_mesh", {0, int(parts.size())});
        node.label = nameOfFile(file);
        node.settings["file"] = file;
        parts.push_back(node.id);
    }
    const bool several = parts.size() > 1;
    const std::string last = several ? added(loom, "merge", {1, 0}).id : parts.empty() ? std::string() : parts.front();
    if (several)
        for (const std::string& part : parts) loom.links.push_back({part, "", last, "", Json::object()});
    loom.output = added(loom, "output", {several ? 2 : 1, 0}).id;
    if (!last.empty()) loom.links.push_back({last, "", loom.output, "", Json::object()});
    return loom;
}

}  // namespace seedloom

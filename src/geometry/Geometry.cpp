#include "geometry/Geometry.h"

#include <set>

#include <stdexcept>

namespace seedloom {

namespace {

constexpr std::array<std::string_view, kElementKinds> kElementNames{"point", "corner", "face", "curve", "copy", "model"};

const std::shared_ptr<const Geometry::Table>& emptyTable() {
    static const auto table = std::make_shared<const Geometry::Table>();
    return table;
}

const std::shared_ptr<const Topology>& emptyTopology() {
    static const auto topology = std::make_shared<const Topology>();
    return topology;
}

}  // namespace

std::string_view elementName(Element element) { return kElementNames[static_cast<int>(element)]; }

Element elementFromName(std::string_view word, bool& ok) {
    for (int i = 0; i < kElementKinds; ++i)
        if (kElementNames[i] == word) return ok = true, static_cast<Element>(i);
    ok = false;
    return Element::point;
}

Geometry::Geometry() : topology_(emptyTopology()) {
    tables_.fill(emptyTable());
    setColumn(Element::point, "position", Column(std::vector<Vec3>{}));
}

Geometry::Geometry(std::vector<Vec3> positions) : Geometry(std::move(positions), Topology()) {}

Geometry::Geometry(std::vector<Vec3> positions, Topology topology) {
    tables_.fill(emptyTable());
    if (topology.pointCount() != positions.size()) {
        if (topology.pointCount() != 0 || topology.cornerCount() != 0 || !topology.curvePoint().empty())
            throw std::invalid_argument("Geometry: the topology is for another number of points");
        topology = Topology(positions.size(), {0}, {}, {0}, {}, {});
    }
    if (const char* wrong = topology.problem(); *wrong) throw std::invalid_argument(wrong);
    topology_ = std::make_shared<const Topology>(std::move(topology));
    setPositions(std::move(positions));
}

Geometry::Geometry(std::vector<Vec3> positions, std::shared_ptr<const Topology> topology) : topology_(std::move(topology)) {
    tables_.fill(emptyTable());
    setPositions(std::move(positions));
}

std::size_t Geometry::count(Element element) const {
    switch (element) {
        case Element::point: return pointCount();
        case Element::corner: return cornerCount();
        case Element::face: return faceCount();
        case Element::curve: return curveCount();
        case Element::copy: return copyCount();
        case Element::model: return 1;
    }
    return 0;
}

const Column* Geometry::column(Element element, std::string_view name) const {
    const Table& found = table(element);
    const auto it = found.find(name);
    return it == found.end() ? nullptr : &it->second;
}

void Geometry::setColumn(Element element, std::string name, Column values) {
    if (values.size() != count(element)) throw std::invalid_argument("Geometry: a column's length must be its element's count");
    const bool isPosition = element == Element::point && name == "position";
    if (isPosition && values.type() != ColumnType::vec3) throw std::invalid_argument("Geometry: position must be vec3");
    if (isPosition) positions_ = values.as<Vec3>();
    auto changed = std::make_shared<Table>(table(element));
    changed->insert_or_assign(std::move(name), std::move(values));
    tables_[static_cast<int>(element)] = std::move(changed);
}

void Geometry::removeColumn(Element element, std::string_view name) {
    if ((element == Element::point && name == "position") || !column(element, name)) return;
    auto changed = std::make_shared<Table>(table(element));
    changed->erase(changed->find(name));
    tables_[static_cast<int>(element)] = std::move(changed);
}

void Geometry::setCopies(std::shared_ptr<const Copies> copies) {
    copies_ = std::move(copies);
    tables_[static_cast<int>(Element::copy)] = emptyTable();
}

void Geometry::eachPart(const std::function<void(const void*, std::size_t)>& tell) const {
    constexpr std::size_t kRow = 96;  // a column's place in its table
    tell(topology_.get(), topology_->byteSize());
    for (const auto& table : tables_) {
        std::size_t names = sizeof(Table);
        for (const auto& [name, column] : *table) {
            names += kRow + name.size();
            tell(column.storage(), column.byteSize());
        }
        tell(table.get(), names);
    }
    if (!copies_) return;
    tell(copies_.get(), copies_->place.size() * (sizeof(Affine) + sizeof(Index)) + copies_->shapes.size() * sizeof(copies_->shapes[0]));
    for (const auto& shape : copies_->shapes) shape->eachPart(tell);
}

std::size_t Geometry::byteSize() const {
    std::size_t bytes = 0;
    std::set<const void*> told;
    eachPart([&](const void* part, std::size_t size) {
        if (told.insert(part).second) bytes += size;
    });
    return bytes;
}

}  // namespace seedloom

#pragma once
// What flows along links: an immutable-by-sharing value of points, faces, curves and copies with their attributes.
// Copying a Geometry shares everything; writing one column replaces that column alone.
#include "geometry/Affine.h"
#include "geometry/Column.h"
#include "geometry/Topology.h"

#include <array>
#include <functional>
#include <map>

namespace seedloom {

enum class Element : std::uint8_t { point, corner, face, curve, copy, model };
inline constexpr int kElementKinds = 6;
inline constexpr std::array kAllElements{Element::point, Element::corner, Element::face, Element::curve, Element::copy, Element::model};

/// point corner face curve copy model, as in files.
std::string_view elementName(Element element);
Element elementFromName(std::string_view word, bool& ok);

class Geometry;

/// Lightweight placed references: copy i shows shapes[shapeOf[i]] under place[i].
struct Copies {
    std::vector<std::shared_ptr<const Geometry>> shapes;
    std::vector<Index> shapeOf;
    std::vector<Affine> place;
};

class Geometry {
public:
    using Table = std::map<std::string, Column, std::less<>>;

    Geometry();
    /// Points only.
    explicit Geometry(std::vector<Vec3> positions);
    /// Precondition: topology.pointCount() == positions.size() and topology.problem() is empty (throws otherwise).
    Geometry(std::vector<Vec3> positions, Topology topology);
    /// Shares a topology that another geometry was made with (it is not checked again).
    Geometry(std::vector<Vec3> positions, std::shared_ptr<const Topology> topology);

    std::size_t count(Element element) const;
    std::size_t pointCount() const { return topology_->pointCount(); }
    std::size_t faceCount() const { return topology_->faceCount(); }
    std::size_t cornerCount() const { return topology_->cornerCount(); }
    std::size_t curveCount() const { return topology_->curveCount(); }
    std::size_t copyCount() const { return copies_ ? copies_->place.size() : 0; }
    bool empty() const { return pointCount() == 0 && copyCount() == 0; }

    const std::vector<Vec3>& positions() const { return *positions_; }
    const Topology& topology() const { return *topology_; }
    const std::shared_ptr<const Topology>& sharedTopology() const { return topology_; }
    const Copies* copies() const { return copies_.get(); }
    const std::shared_ptr<const Copies>& sharedCopies() const { return copies_; }

    const Table& table(Element element) const { return *tables_[static_cast<int>(element)]; }
    const Column* column(Element element, std::string_view name) const;
    /// The values of a column where it exists with type T, else nullptr.
    template <class T> const std::vector<T>* values(Element element, std::string_view name) const {
        const Column* found = column(element, name);
        return found ? found->as<T>() : nullptr;
    }

    /// Throws std::invalid_argument where the length is not the element's count, or `position` is not vec3.
    void setColumn(Element element, std::string name, Column values);
    /// `position` stays.
    void removeColumn(Element element, std::string_view name);
    void setPositions(std::vector<Vec3> positions) { setColumn(Element::point, "position", Column(std::move(positions))); }
    void setCopies(std::shared_ptr<const Copies> copies);

    /// Calls `tell` with the address and the bytes of each part that geometries may share; the same address is the same memory. A part may be told
    /// twice. What a topology derives on demand counts as if it were there.
    void eachPart(const std::function<void(const void* part, std::size_t bytes)>& tell) const;
    /// The memory held; what is shared within the geometry counts once.
    std::size_t byteSize() const;

private:
    std::shared_ptr<const Topology> topology_;
    std::array<std::shared_ptr<const Table>, kElementKinds> tables_;
    std::shared_ptr<const Copies> copies_;
    const std::vector<Vec3>* positions_ = nullptr;  ///< held by the point table, which copies share: asked for once an element in many loops
};

}  // namespace seedloom

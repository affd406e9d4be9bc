#include "operators/make/ImportFindings.h"

#include "geometry/Measures.h"
#include "geometry/Weld.h"
#include "surface/LooseParts.h"
#include "surface/ScanFacts.h"
#include "surface/Upright.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

constexpr double kSmallPart = 0.05;           ///< of the largest part's size
constexpr double kWantedTriangles = 100'000;  ///< that a scan is cleaned to, unless it has fewer
constexpr double kLeastTriangles = 4'000;
constexpr float kMillimetres = 30;  ///< metres from which on a size looks like millimetres
constexpr double kAway = 0.1;       ///< of its size: so far from the ground's middle counts as not standing there

std::string counted(std::size_t count, const char* one, const char* many) { return fmt::format("{} {}", count, count == 1 ? one : many); }

std::string lowerEnding(const std::string& file) {
    std::string out = std::filesystem::path(file).extension().string();
    for (char& c : out) c = char(std::tolower(static_cast<unsigned char>(c)));
    return out;
}

class Findings {
public:
    Findings(OperatorCall& call, const Geometry& g) : call_(call), g_(g), bounds_(boundsOf(g)) {}

    void tell() {
        if (g_.empty())
            return call_.tell(NoticeLevel::warning, "import.empty",
                              "The file was read, but holds no faces, curves or points. Check that its mesh was chosen when it was exported.", "file");
        if (g_.faceCount() > 0) {
            facts_ = scanFactsOf(g_);
            tellParts();
            tellUp();
            tellWinding();
            tellDoubled();
            tellPlace();
        }
        tellSize();
        tellFound();
    }

private:
    void tellParts() {
        const LooseParts loose = looseParts(g_, kSmallPart);
        small_ = loose.small;
        if (loose.parts == 0) return;
        scan_ = true;
        clean("smallest_part", kSmallPart, "Leave them out");
        call_.tell(NoticeLevel::info, "import.loose",
                   fmt::format("{} smaller than {:g} % of the largest.", counted(loose.parts, "loose part is", "loose parts are"), 100 * kSmallPart),
                   "smallest_part");
    }
    /// By the flattest side; where there is none, by what such files mostly have.
    void tellUp() {
        const auto guess = guessedUp(g_, small_);
        if (guess == SignedAxis{}) return;
        const std::string ending = lowerEnding(call_.text("file")), up = guess ? inFile(*guess) : "z";
        if (!guess && (ending != ".stl" || call_.choice("up") != "y")) return;
        std::string shown = up;
        shown.back() = char(std::toupper(shown.back()));
        clean("up", up, fmt::format("Turn {} up", shown));
        call_.tell(NoticeLevel::info, "import.up",
                   guess ? fmt::format("It would stand on its flattest side with {} of the file up.", shown) : std::string("In most STL files Z points up."),
                   "up");
    }
    /// The axis of the file that has become this one.
    std::string inFile(SignedAxis axis) const {
        const Affine turned = turnUpright(axisOfUp(call_.choice("up")));
        Vec3 way{};
        way[axis.axis] = axis.positive ? 1.0f : -1.0f;
        const std::array<Vec3, 3> columns{turned.x, turned.y, turned.z};
        std::string out;
        for (std::size_t c = 0; c < 3; ++c)
            if (const float part = dot(columns[c], way); std::abs(part) > 0.5f) out = std::string(part < 0 ? "-" : "") + char('x' + c);
        return out;
    }
    void tellWinding() {
        if (facts_.reversed == 0 && !facts_.insideOut) return;
        scan_ = true;
        clean("winding", "outwards", "Turn faces outwards");
        call_.tell(NoticeLevel::info, "import.winding",
                   facts_.reversed > 0 ? fmt::format("At {} neighbours look to opposite sides.", counted(facts_.reversed, "edge", "edges"))
                                       : std::string("Its faces look inwards."),
                   "winding");
    }
    void tellDoubled() {
        const std::size_t doubled = call_.flag("weld") ? 0 : weld(g_, 0).joinedPoints;
        if (doubled == 0) return;
        clean("weld", true, "Join them");
        call_.tell(NoticeLevel::info, "import.doubled", fmt::format("{} on top of others.", counted(doubled, "point lies", "points lie")), "weld");
    }
    void tellPlace() {
        const Vec3 middle = bounds_.centre();
        const double away = std::max({std::abs(double(middle.x)), std::abs(double(middle.z)), std::abs(double(bounds_.min.y))});
        settings_["place"] = "on the ground";
        if (away <= kAway * bounds_.diagonal()) return;
        call_.offer(setFix("Stand it on the ground", "place", "on the ground"));
        call_.tell(NoticeLevel::info, "import.place",
                   fmt::format("Its middle is {:.3g}, {:.3g} m off, its lowest point at {:.3g} m.", middle.x, middle.z, bounds_.min.y), "place");
    }

    /// What there is, for people.
    void tellFound() {
        const Vec3 size = bounds_.size();
        std::string text = fmt::format("{} points, {} faces, {:.3g} × {:.3g} × {:.3g} m", g_.pointCount(), g_.faceCount(), size.x, size.y, size.z);
        if (g_.curveCount() > 0) text += fmt::format(", {} curves", g_.curveCount());
        if (g_.faceCount() > 0) {
            const Index parts = g_.topology().connection().pieces;
            if (parts > 1) text += fmt::format(", {} parts", parts);
            text += facts_.openEdges == 0 ? ", closed" : fmt::format(", {} open edges in {}", facts_.openEdges, counted(facts_.holes, "ring", "rings"));
            if (facts_.crowded > 0) text += fmt::format(", {} of three or more faces", counted(facts_.crowded, "edge", "edges"));
            offerCleaning();
        }
        call_.tell(NoticeLevel::info, "import.found", text + ".", "file");
    }
    void offerCleaning() {
        const double triangles = std::clamp(double(g_.cornerCount()) - 2 * double(g_.faceCount()), kLeastTriangles, kWantedTriangles);
        const double larger = settings_.contains("scale") ? settings_.at("scale").get<double>() / call_.number("scale") : 1;
        const double edge = twoDigits(larger * edgeOfTriangles(facts_.area, triangles), std::round);
        const bool holes = facts_.openEdges > 0 && !facts_.sheet;
        if (!(scan_ || holes || facts_.crowded > 0) || !(edge > 0)) return;
        // How often faces go around a place says what is inside only where they are wound alike.
        const char* insideBy = holes && facts_.crowded == 0 ? "winding" : "auto";
        call_.offer(cleanFix("Make it clean", settings_, {{"edge_length", edge}, {"holes", facts_.sheet ? "leave" : "wrap"}, {"inside_by", insideBy}}));
        if (!holes) return;
        call_.offer(cleanFix("Make it clean, holes patched", settings_, {{"edge_length", edge}, {"holes", "patch"}}));
        call_.offer(addFix("Only patch the holes", "fill_holes", {{"form", "fan"}}));
    }
    /// Files without a unit are taken as metres; a thing of a size that nobody scans is most likely one in millimetres.
    void tellSize() {
        const Vec3 size = bounds_.size();
        const float most = std::max({size.x, size.y, size.z});
        const std::string ending = lowerEnding(call_.text("file"));
        const bool unitless = ending == ".stl" || ending == ".obj" || ending == ".ply";
        const bool far = most > 1000 || (most > 0 && most < 0.001f);
        if (!far && !(most > kMillimetres && unitless && call_.choice("size_by") == "scale")) return;
        if (most > kMillimetres) clean("scale", call_.number("scale") * 0.001, "Take it as millimetres");
        call_.tell(
            far ? NoticeLevel::warning : NoticeLevel::info, "import.size",
            fmt::format(
                "The model is {:.3g} m large. If the file is not in metres, set Scale: 0.001 for millimetres, 0.01 for centimetres, 1000 for kilometres.",
                most),
            "scale");
    }

    /// One click for this alone, and a part of what cleans all.
    void clean(const char* setting, Json value, std::string label) {
        settings_[setting] = value;
        call_.offer(setFix(std::move(label), setting, std::move(value)));
    }

    OperatorCall& call_;
    const Geometry& g_;
    Bounds bounds_;
    ScanFacts facts_;
    std::vector<std::uint8_t> small_;  ///< by face
    std::map<std::string, Json> settings_;
    bool scan_ = false;
};

}  // namespace

SignedAxis axisOfUp(const std::string& up) { return {up.back() - 'x', up.size() == 1}; }

void tellImported(OperatorCall& call, const Geometry& imported) { Findings(call, imported).tell(); }

}  // namespace seedloom

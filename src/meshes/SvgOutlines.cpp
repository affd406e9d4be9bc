// Method: SVG 1.1 (W3C): basic shapes, paths, groups and transforms; the view box fitted into the page as preserveAspectRatio says.
#include "meshes/SvgPath.h"

#include <fmt/format.h>
#include <pugixml.hpp>

#include <algorithm>
#include <cmath>
#include <limits>

namespace seedloom {

namespace {

constexpr double kUnitMetres = 0.0254 / 96;  // a user unit where nothing else is said
constexpr int kDeepest = 256;                // groups inside each other

/// Names may carry a prefix for the name space.
std::string_view nameOf(const pugi::xml_node& node) {
    const std::string_view name = node.name();
    const auto colon = name.find(':');
    return colon == std::string_view::npos ? name : name.substr(colon + 1);
}

double lengthOf(const pugi::xml_node& node, const char* name, double otherwise = 0) { return lengthIn(node.attribute(name).value()).value_or(otherwise); }

/// By itself, or inside of `style`.
bool hidden(const pugi::xml_node& node) {
    std::string style;
    for (const char c : std::string_view(node.attribute("style").value()))
        if (!std::isspace(static_cast<unsigned char>(c))) style += c;
    return std::string_view(node.attribute("display").value()) == "none" || style.find("display:none") != std::string::npos;
}

std::string pathOfPoints(const pugi::xml_node& node, bool closed) { return fmt::format("M {}{}", node.attribute("points").value(), closed ? " Z" : ""); }

/// An ellipse as two half turns.
std::string pathOfEllipse(double x, double y, double rx, double ry) {
    if (!(rx > 0) || !(ry > 0)) return {};
    return fmt::format("M {0} {2} A {3} {4} 0 0 0 {1} {2} A {3} {4} 0 0 0 {0} {2} Z", x + rx, x - rx, y, rx, ry);
}

std::string pathOfRectangle(const pugi::xml_node& node) {
    const double x = lengthOf(node, "x"), y = lengthOf(node, "y"), w = lengthOf(node, "width"), h = lengthOf(node, "height");
    if (!(w > 0) || !(h > 0)) return {};
    double rx = lengthOf(node, "rx", -1), ry = lengthOf(node, "ry", -1);
    if (rx < 0) rx = ry;
    if (ry < 0) ry = rx;
    rx = std::clamp(rx, 0.0, w / 2), ry = std::clamp(ry, 0.0, h / 2);
    if (rx == 0 || ry == 0) return fmt::format("M {} {} h {} v {} h {} Z", x, y, w, h, -w);
    return fmt::format("M {} {} h {} a {} {} 0 0 1 {} {} v {} a {} {} 0 0 1 {} {} h {} a {} {} 0 0 1 {} {} v {} a {} {} 0 0 1 {} {} Z", x + rx, y, w - 2 * rx,
                       rx, ry, rx, ry, h - 2 * ry, rx, ry, -rx, ry, 2 * rx - w, rx, ry, -rx, -ry, 2 * ry - h, rx, ry, rx, -ry);
}

/// A shape in the words of a path; empty where it draws nothing. Nothing: the element is no shape.
std::optional<std::string> pathOf(const pugi::xml_node& node, std::string_view name) {
    if (name == "path") return node.attribute("d").value();
    if (name == "rect") return pathOfRectangle(node);
    if (name == "circle") return pathOfEllipse(lengthOf(node, "cx"), lengthOf(node, "cy"), lengthOf(node, "r"), lengthOf(node, "r"));
    if (name == "ellipse") return pathOfEllipse(lengthOf(node, "cx"), lengthOf(node, "cy"), lengthOf(node, "rx"), lengthOf(node, "ry"));
    if (name == "line") return fmt::format("M {} {} L {} {}", lengthOf(node, "x1"), lengthOf(node, "y1"), lengthOf(node, "x2"), lengthOf(node, "y2"));
    if (name == "polyline") return pathOfPoints(node, false);
    if (name == "polygon") return pathOfPoints(node, true);
    return {};
}

class SvgReader {
public:
    void read(const pugi::xml_node& root) {
        const std::vector<double> box = numbersIn(root.attribute("viewBox").value());
        const bool boxed = box.size() == 4 && box[2] > 0 && box[3] > 0;
        const double width = lengthOf(root, "width", boxed ? box[2] : 0), height = lengthOf(root, "height", boxed ? box[3] : 0);
        PageMap map;
        if (boxed && width > 0 && height > 0) {
            double across = width / box[2], up = height / box[3];
            const std::string_view fit = root.attribute("preserveAspectRatio").value();
            if (fit.substr(0, 4) != "none") across = up = std::min(across, up);
            map = {across, 0, 0, up, (width - across * box[2]) / 2 - across * box[0], (height - up * box[3]) / 2 - up * box[1]};
        }
        out.width = width * kUnitMetres, out.height = height * kUnitMetres;
        children(root, chained({kUnitMetres, 0, 0, -kUnitMetres, 0, out.height}, map), 0);
    }

    OutlineDrawing out;

private:
    void children(const pugi::xml_node& parent, const PageMap& map, int depth) {
        for (const pugi::xml_node& node : parent.children())
            if (node.type() == pugi::node_element && !hidden(node)) element(node, map, depth);
    }
    void element(const pugi::xml_node& node, const PageMap& outer, int depth) {
        const std::string_view name = nameOf(node);
        PageMap map = chained(outer, transformIn(node.attribute("transform").value()));
        if (name == "svg") map = chained(map, {1, 0, 0, 1, lengthOf(node, "x"), lengthOf(node, "y")});
        if (name == "g" || name == "a" || name == "svg" || name == "switch") {
            if (depth < kDeepest) children(node, map, depth + 1);
            else ++out.other;
        } else if (name == "text" || name == "image" || name == "use" || name == "foreignObject") {
            ++out.other;
        } else if (const auto path = pathOf(node, name)) {
            add(*path, map);
        }
    }
    void add(const std::string& path, const PageMap& map) {
        PathLines lines = pathIn(path);
        out.broken += !lines.whole;
        for (OutlineLine& line : lines.lines) {
            line.from = map(line.from), line.shape = shapes_;
            for (OutlineStretch& stretch : line.stretches) {
                stretch.one = map(stretch.one), stretch.two = map(stretch.two), stretch.to = map(stretch.to);
                ++(stretch.straight ? out.straights : out.bends);
            }
            out.lines.push_back(std::move(line));
        }
        ++shapes_;
    }
    int shapes_ = 0;
};

}  // namespace

const std::vector<std::string>& outlineEndings() {
    static const std::vector<std::string> out{".svg"};
    return out;
}

Result<OutlineDrawing> outlinesFromSvg(std::string_view bytes) {
    pugi::xml_document document;
    const pugi::xml_parse_result parsed =
        document.load_buffer(bytes.data(), bytes.size(), pugi::parse_minimal | pugi::parse_escapes | pugi::parse_wconv_attribute);
    if (!parsed)
        return Error{"outline.format",
                     fmt::format("The file is no whole SVG drawing: at byte {} something else was found ({}).", parsed.offset, parsed.description())};
    const pugi::xml_node root = document.document_element();
    if (nameOf(root) != "svg") return Error{"outline.format", fmt::format("The file is XML, but no SVG drawing: it begins with <{}>.", root.name())};
    SvgReader reader;
    reader.read(root);
    return std::move(reader.out);
}

}  // namespace seedloom

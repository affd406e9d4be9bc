// Method: the grammar of path data and its arcs as in SVG 1.1, chapter 8 and appendix F.6; an arc becomes cubic curves of at most a quarter turn.
#include "meshes/SvgPath.h"

#include "geometry/Vec.h"

#include <charconv>
#include <cmath>

namespace seedloom {

namespace {

bool isSeparator(char c) { return c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == '\f' || c == ','; }

void skipSeparators(std::string_view& text) {
    while (!text.empty() && isSeparator(text.front())) text.remove_prefix(1);
}

PageSpot plus(PageSpot a, PageSpot b) { return {a[0] + b[0], a[1] + b[1]}; }
PageSpot mirrored(PageSpot p, PageSpot at) { return {2 * at[0] - p[0], 2 * at[1] - p[1]}; }
PageSpot between(PageSpot a, PageSpot b, double t) { return {a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t}; }

/// One flag of an arc: a single digit, which needs no separator behind it.
std::optional<bool> takeFlag(std::string_view& text) {
    skipSeparators(text);
    if (text.empty() || (text.front() != '0' && text.front() != '1')) return {};
    const bool out = text.front() == '1';
    text.remove_prefix(1);
    return out;
}

/// Draws path data, a command after the other.
class PathReader {
public:
    explicit PathReader(std::string_view text) : text_(text) {}

    PathLines read() {
        char command = 0;
        for (skipSeparators(text_); !text_.empty(); skipSeparators(text_)) {
            const char next = text_.front();
            if (std::isalpha(static_cast<unsigned char>(next))) {
                command = next;
                text_.remove_prefix(1);
            } else if (command == 'M' || command == 'm') {
                command = command == 'M' ? 'L' : 'l';  // further pairs of a move are lines
            } else if (command == 'Z' || command == 'z') {
                return broken();
            }
            if (out_.lines.empty() && command != 'M' && command != 'm') return broken();
            if (!draw(command)) return broken();
        }
        return std::move(out_);
    }

private:
    PathLines broken() {
        out_.whole = false;
        return std::move(out_);
    }

    bool draw(char command) {
        const bool relative = std::islower(static_cast<unsigned char>(command)) != 0;
        const PageSpot origin = relative ? at_ : PageSpot{0, 0};
        const char kind = char(std::toupper(static_cast<unsigned char>(command)));
        const bool drawn = kind == 'M' ? move(origin)
                         : kind == 'Z' ? close()
                         : kind == 'L' ? line(origin)
                         : kind == 'H' ? along(0, origin)
                         : kind == 'V' ? along(1, origin)
                         : kind == 'C' ? cubic(origin)
                         : kind == 'S' ? smoothCubic(origin)
                         : kind == 'Q' ? quadratic(origin)
                         : kind == 'T' ? smoothQuadratic(origin)
                                       : kind == 'A' && arc(origin);
        last_ = kind;
        return drawn;
    }

    std::optional<PageSpot> spot(PageSpot origin) {
        const auto x = takeNumber(text_);
        const auto y = x ? takeNumber(text_) : x;
        if (!y) return {};
        return plus({*x, *y}, origin);
    }

    bool move(PageSpot origin) {
        const auto to = spot(origin);
        if (!to) return false;
        begin(*to);
        return true;
    }
    void begin(PageSpot from) {
        if (!out_.lines.empty() && out_.lines.back().stretches.empty()) out_.lines.pop_back();  // a move without a line
        out_.lines.push_back({from, {}, false, 0});
        at_ = from;
    }
    bool close() {
        out_.lines.back().closed = true;
        at_ = out_.lines.back().from;
        return true;
    }
    void add(const OutlineStretch& stretch) {
        if (out_.lines.back().closed) begin(at_);  // what follows a close without a move starts where that line did
        out_.lines.back().stretches.push_back(stretch);
        at_ = stretch.to;
    }
    void addLine(PageSpot to) { add({at_, to, to, true}); }
    void addCubic(PageSpot one, PageSpot two, PageSpot to) {
        add({one, two, to, false});
        control_ = two;
    }
    void addQuadratic(PageSpot control, PageSpot to) {
        addCubic(between(at_, control, 2.0 / 3), between(to, control, 2.0 / 3), to);
        control_ = control;
    }

    bool line(PageSpot origin) {
        const auto to = spot(origin);
        if (to) addLine(*to);
        return to.has_value();
    }
    bool along(std::size_t axis, PageSpot origin) {
        const auto to = takeNumber(text_);
        if (!to) return false;
        PageSpot end = at_;
        end[axis] = *to + origin[axis];
        addLine(end);
        return true;
    }
    bool cubic(PageSpot origin) {
        const auto one = spot(origin);
        return one && cubicBy(*one, origin);
    }
    bool smoothCubic(PageSpot origin) { return cubicBy(last_ == 'C' || last_ == 'S' ? mirrored(control_, at_) : at_, origin); }
    bool cubicBy(PageSpot one, PageSpot origin) {
        const auto two = spot(origin);
        const auto to = two ? spot(origin) : two;
        if (to) addCubic(one, *two, *to);
        return to.has_value();
    }
    bool quadratic(PageSpot origin) {
        const auto control = spot(origin);
        return control && quadraticBy(*control, origin);
    }
    bool smoothQuadratic(PageSpot origin) { return quadraticBy(last_ == 'Q' || last_ == 'T' ? mirrored(control_, at_) : at_, origin); }
    bool quadraticBy(PageSpot control, PageSpot origin) {
        const auto to = spot(origin);
        if (to) addQuadratic(control, *to);
        return to.has_value();
    }

    bool arc(PageSpot origin) {
        const auto rx = takeNumber(text_);
        const auto ry = rx ? takeNumber(text_) : rx;
        const auto turn = ry ? takeNumber(text_) : ry;
        const auto large = turn ? takeFlag(text_) : std::nullopt;
        const auto sweep = large ? takeFlag(text_) : std::nullopt;
        const auto to = sweep ? spot(origin) : std::nullopt;
        if (to) addArc(std::abs(*rx), std::abs(*ry), *turn * kPi / 180, *large, *sweep, *to);
        return to.has_value();
    }
    /// From end points to centre: appendix F.6.5; radii that are too small grow as F.6.6 says.
    void addArc(double rx, double ry, double turn, bool large, bool sweep, PageSpot to) {
        const PageSpot from = at_;
        if (from == to) return;
        if (!(rx > 0) || !(ry > 0)) return addLine(to);
        const double c = std::cos(turn), s = std::sin(turn);
        const double hx = (from[0] - to[0]) / 2, hy = (from[1] - to[1]) / 2;
        const double x = c * hx + s * hy, y = -s * hx + c * hy;
        const double grow = std::sqrt(x * x / (rx * rx) + y * y / (ry * ry));
        if (grow > 1) rx *= grow, ry *= grow;
        const double below = rx * rx * y * y + ry * ry * x * x;
        const double root = std::sqrt(std::max(0.0, rx * rx * ry * ry / below - 1)) * (large == sweep ? -1 : 1);
        const double ex = root * rx * y / ry, ey = -root * ry * x / rx;
        const double first = std::atan2((y - ey) / ry, (x - ex) / rx);
        double span = std::atan2((-y - ey) / ry, (-x - ex) / rx) - first;
        if (sweep && span < 0) span += 2 * kPi;
        if (!sweep && span > 0) span -= 2 * kPi;
        const PageMap place{c * rx, s * rx, -s * ry, c * ry, c * ex - s * ey + (from[0] + to[0]) / 2, s * ex + c * ey + (from[1] + to[1]) / 2};
        const int parts = std::max(1, int(std::ceil(std::abs(span) / (kPi / 2) - 1e-9)));
        const double step = span / parts, reach = 4.0 / 3 * std::tan(step / 4);
        for (int i = 0; i < parts; ++i) {
            const double a = first + step * i, b = a + step;
            const PageSpot one = place({std::cos(a) - reach * std::sin(a), std::sin(a) + reach * std::cos(a)});
            const PageSpot two = place({std::cos(b) + reach * std::sin(b), std::sin(b) - reach * std::cos(b)});
            addCubic(one, two, i + 1 == parts ? to : place({std::cos(b), std::sin(b)}));
        }
    }

    std::string_view text_;
    PathLines out_;
    PageSpot at_{}, control_{};
    char last_ = 0;
};

}  // namespace

PageMap chained(const PageMap& o, const PageMap& i) {
    return {o.a * i.a + o.c * i.b, o.b * i.a + o.d * i.b,       o.a * i.c + o.c * i.d,
            o.b * i.c + o.d * i.d, o.a * i.e + o.c * i.f + o.e, o.b * i.e + o.d * i.f + o.f};
}

std::optional<double> takeNumber(std::string_view& text) {
    skipSeparators(text);
    std::string_view digits = text;
    if (!digits.empty() && digits.front() == '+') digits.remove_prefix(1);
    if (digits.empty() || !(std::isdigit(static_cast<unsigned char>(digits.front())) || digits.front() == '.' || digits.front() == '-')) return {};
    double out = 0;
    const auto [end, error] = std::from_chars(digits.data(), digits.data() + digits.size(), out);
    if (error != std::errc() || !std::isfinite(out)) return {};
    text.remove_prefix(std::size_t(end - text.data()));
    return out;
}

std::vector<double> numbersIn(std::string_view text) {
    std::vector<double> out;
    while (const auto number = takeNumber(text)) out.push_back(*number);
    return out;
}

std::optional<double> lengthIn(std::string_view text) {
    const auto number = takeNumber(text);
    if (!number) return {};
    while (!text.empty() && isSeparator(text.back())) text.remove_suffix(1);
    constexpr std::pair<std::string_view, double> kUnits[] = {{"", 1},           {"px", 1},        {"mm", 96 / 25.4}, {"cm", 96 / 2.54}, {"in", 96},
                                                              {"pt", 96.0 / 72}, {"pc", 96.0 / 6}, {"q", 96 / 101.6}, {"Q", 96 / 101.6}};
    for (const auto& [unit, size] : kUnits)
        if (text == unit) return *number * size;
    return {};
}

PageMap transformIn(std::string_view text) {
    PageMap out;
    for (;;) {
        skipSeparators(text);
        const auto open = text.find('('), shut = text.find(')');
        if (open == std::string_view::npos || shut == std::string_view::npos || shut < open) return out;
        std::string_view name = text.substr(0, open);
        while (!name.empty() && isSeparator(name.back())) name.remove_suffix(1);
        const std::vector<double> n = numbersIn(text.substr(open + 1, shut - open - 1));
        text.remove_prefix(shut + 1);
        PageMap map;
        const double angle = n.empty() ? 0 : n[0] * kPi / 180;
        if (name == "matrix" && n.size() == 6) map = {n[0], n[1], n[2], n[3], n[4], n[5]};
        else if (name == "translate" && (n.size() == 1 || n.size() == 2)) map.e = n[0], map.f = n.size() == 2 ? n[1] : 0;
        else if (name == "scale" && (n.size() == 1 || n.size() == 2)) map.a = n[0], map.d = n.back();
        else if (name == "skewX" && n.size() == 1) map.c = std::tan(angle);
        else if (name == "skewY" && n.size() == 1) map.b = std::tan(angle);
        else if (name == "rotate" && (n.size() == 1 || n.size() == 3)) {
            map = {std::cos(angle), std::sin(angle), -std::sin(angle), std::cos(angle), 0, 0};
            if (n.size() == 3) map = chained(chained({1, 0, 0, 1, n[1], n[2]}, map), {1, 0, 0, 1, -n[1], -n[2]});
        } else {
            return out;
        }
        out = chained(out, map);
    }
}

PathLines pathIn(std::string_view text) {
    PathLines out = PathReader(text).read();
    std::erase_if(out.lines, [](const OutlineLine& line) { return line.stretches.empty(); });
    return out;
}

}  // namespace seedloom

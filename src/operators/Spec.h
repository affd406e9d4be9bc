#pragma once
// An operator's declaration: data that the settings panel, quick add, command line, documentation and tests all read.
#include "fields/Source.h"
#include "geometry/Geometry.h"
#include "operators/Sample.h"

#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace seedloom {

class OperatorCall;

/// A frame of an operator that has state: what it shows, and what only the next frame needs.
struct FrameState {
    Geometry geometry;
    std::shared_ptr<const void> own;
    std::size_t ownBytes = 0;
};

enum class Family : std::uint8_t { make, curve, surface, deform, attribute, scatter, breaking, motion, flow, look };
std::string_view familyName(Family family);

enum class SettingType : std::uint8_t { number, integer, boolean, vec2, vec3, choice, text, points, ramp, range, formula, strokes, lines, file, materials };
std::string_view settingTypeName(SettingType type);

enum class Unit : std::uint8_t { none, metre, degree, part };
/// Symbol behind a number: m, °, or nothing.
std::string_view unitSymbol(Unit unit);

struct SettingSpec {
    std::string id, label;
    SettingType type = SettingType::number;
    Unit unit = Unit::none;
    Json fallback;                    ///< default, as written in a loom
    std::optional<double> min, max;   ///< numbers outside are refused
    std::optional<double> low, high;  ///< where a slider makes sense: its ends
    std::vector<std::string> choices;
    bool perElement = false;
    Element element = Element::point;         ///< of per-element values
    std::string help;                         ///< one sentence
    std::string section;                      ///< heading in the panel under which it stands; empty: the first, without one
    bool drawsPlane = false;                  ///< a line across the view sets it, together with the setting `normal`
    std::string shownWhenSetting;             ///< shown only while that setting …
    std::vector<std::string> shownWhenValue;  ///< … has one of these values

    // Written once in Spec.cpp: a hundred files that declare operators would each compile them anew.
    SettingSpec();
    SettingSpec(const SettingSpec& other);
    SettingSpec(SettingSpec&& other) noexcept;
    SettingSpec& operator=(const SettingSpec& other);
    SettingSpec& operator=(SettingSpec&& other) noexcept;
    ~SettingSpec();

    SettingSpec& within(double least, double most) { return min = least, max = most, *this; }
    SettingSpec& atLeast(double least) { return min = least, *this; }
    SettingSpec& slider(double from, double to) { return low = from, high = to, *this; }
    SettingSpec& each(Element kind = Element::point) { return perElement = true, element = kind, *this; }
    SettingSpec& drawnAcross() { return drawsPlane = true, *this; }
    SettingSpec& in(std::string heading) { return section = std::move(heading), *this; }
    SettingSpec& helped(std::string text) { return help = std::move(text), *this; }
    SettingSpec& when(std::string setting, std::vector<std::string> values) {
        return shownWhenSetting = std::move(setting), shownWhenValue = std::move(values), *this;
    }
    bool numeric() const {
        return type == SettingType::number || type == SettingType::integer || type == SettingType::vec2 || type == SettingType::vec3 ||
               type == SettingType::boolean;
    }
};

SettingSpec numberSetting(std::string id, std::string label, Unit unit, double fallback);
SettingSpec integerSetting(std::string id, std::string label, int fallback);
SettingSpec flagSetting(std::string id, std::string label, bool fallback);
SettingSpec vec2Setting(std::string id, std::string label, Unit unit, Vec2 fallback);
SettingSpec vec3Setting(std::string id, std::string label, Unit unit, Vec3 fallback);
SettingSpec choiceSetting(std::string id, std::string label, std::vector<std::string> choices, std::string fallback);
SettingSpec textSetting(std::string id, std::string label, std::string fallback);
/// Strokes of a brush, a list of {"points": [[x, y, z, nx, ny, nz], …], "radius", "strength", "soft", "mode", "mirror", "hidden"}.
/// `modes`: what the brush can do; the first where a stroke says nothing. Kept as the setting's choices.
SettingSpec strokesSetting(std::string id, std::string label, std::vector<std::string> modes);
/// Statements in the formula language.
SettingSpec formulaSetting(std::string id, std::string label, std::string fallback);
/// Drawn lines, a list of lists of points.
SettingSpec linesSetting(std::string id, std::string label);
/// A list of {"name", "color": [r, g, b], "roughness", "metalness", "share"}.
SettingSpec materialsSetting(std::string id, std::string label, Json fallback);
/// The path of a file, absolute or from the folder of the document.
/// `choices` holds the endings of files that may be chosen; empty: those of meshes.
SettingSpec fileSetting(std::string id, std::string label, std::vector<std::string> endings = {});
SettingSpec pointsSetting(std::string id, std::string label, Json fallback);
SettingSpec rampSetting(std::string id, std::string label);
/// "auto" or [low, high].
SettingSpec rangeSetting(std::string id, std::string label);
/// The mask and the strength that masked operators share.
SettingSpec whereSetting(Element element);
SettingSpec blendSetting(Element element);

/// What an operator needs at its first input to do anything.
enum class Takes : std::uint8_t { anything, curves, faces, curvesOrFaces, points, copies };

/// Where the settings of a node take their values from, by id.
using SettingSources = std::map<std::string, Source>;

struct PortSpec {
    std::string id = "in", label = "Input";
    bool many = false;
    bool optional = false;
};

struct OperatorSpec {
    std::string id, label;
    int order = 0;  ///< its place in lists that people read, lowest first
    Family family = Family::make;
    std::string sentence;               ///< what it does, in one sentence
    std::string help;                   ///< a paragraph: how it behaves, limits, method
    std::vector<std::string> synonyms;  ///< what people may type when they look for it
    std::vector<PortSpec> inputs, outputs{{"out", "Result"}};
    std::vector<SettingSpec> settings;
    Takes takes = Takes::anything;  ///< quick add offers it first behind such a geometry
    int version = 1;
    Geometry (*compute)(OperatorCall& call) = nullptr;
    /// A quick answer in the place of `compute`, with less in it, for while a hand slides and the whole takes too long; none: the step waits for the hand.
    Geometry (*coarse)(OperatorCall& call) = nullptr;
    /// Of an operator whose frames follow from each other, instead of `compute`: frame 0 (and all before it), and a frame from the one before.
    FrameState (*start)(OperatorCall& call) = nullptr;
    FrameState (*advance)(OperatorCall& call, const FrameState& before) = nullptr;
    /// What a frame looks like, where its state is less than that: then `start` and `advance` leave their geometry empty, and only frames that are seen are
    /// made.
    Geometry (*show)(OperatorCall& call, const FrameState& state) = nullptr;
    /// A frame's state as bytes, and from those and frame 0 the state again; nothing where they are damaged. Null: frames stay in memory.
    std::string (*save)(const FrameState& state) = nullptr;
    std::optional<FrameState> (*restore)(const FrameState& first, std::string_view bytes) = nullptr;
    /// A whole number that says which frame is the result, whatever the frame is all around; below 0, or where there is no such setting: that one.
    std::string frameSetting;
    /// A container whose frames follow from each other: what is inside makes each from the one before.
    bool overFrames = false;
    bool hasState() const { return advance != nullptr || overFrames; }
    /// What shows it, with itself in it; without a kind: what sampleOf makes of it.
    SampleStep sample;
    /// Settings that a node of this kind declares itself by what is written in it, as the dials of a formula.
    std::vector<SettingSpec> (*ownSettings)(const Json& written) = nullptr;

    OperatorSpec();
    OperatorSpec(const OperatorSpec& other);
    OperatorSpec(OperatorSpec&& other) noexcept;
    OperatorSpec& operator=(const OperatorSpec& other);
    OperatorSpec& operator=(OperatorSpec&& other) noexcept;
    ~OperatorSpec();

    const SettingSpec* setting(std::string_view wanted) const;
    const PortSpec* input(std::string_view wanted) const;
    /// The place of an output; an empty name is the first. Nothing where there is none of that name.
    std::optional<std::size_t> outputIndex(std::string_view wanted) const;
};

/// What shows an operator: its own sample, or its defaults over something simple that it takes.
SampleStep sampleOf(const OperatorSpec& spec);

}  // namespace seedloom

// Method: profile along frames without twist (double reflection, Wang et al., ACM TOG 27(1), 2008), mitred at corners.
#include "operators/OperatorCall.h"
#include "operators/curve/CurveFrames.h"
#include "operators/curve/SweepKernel.h"

namespace seedloom {

namespace {

/// scale × width, by point of the path.
Field<float> sized(const OperatorCall& call, const Geometry& path, bool withWidth) {
    Field<float> scale = call.each("scale", path);
    if (!withWidth) return scale;
    const Field<float> width = call.each("width", path);
    if (scale.uniform && width.uniform) return scale.value *= width.value, scale;
    Field<float> out{false, 0, std::vector<float>(path.pointCount())};
    for (std::size_t p = 0; p < out.values.size(); ++p) out.values[p] = scale[p] * width[p];
    return out;
}

Geometry computeSweep(OperatorCall& call) {
    const Geometry path = withAlong(call.in());
    if (path.curveCount() == 0) call.fail("curve.none", "Sweep needs a curve as its path, and none is plugged in.");
    std::string form = call.choice("form");
    const Geometry profile = call.port(1).empty() ? Geometry() : call.port(1).front();
    if (form == "profile" && call.port(1).empty()) {
        call.tell(NoticeLevel::info, "sweep.tube", "Nothing is plugged into Profile, so this is a tube. Link a curve to it, or choose a form.", "form");
        form = "tube";
    }
    const int columns = call.integer("columns");
    std::vector<SweepProfile> profiles;
    if (form == "profile" || (form == "edges only" && profile.curveCount() > 0)) {
        if (profile.curveCount() == 0) {
            call.offer(setFix("Make it a tube", "form", "tube"));
            call.fail("sweep.profile", "What is plugged into Profile has no curve. Link one, or set Form to ribbon or tube.", "form");
        }
        profiles = profilesOf(profile);
    } else if (form == "tube") {
        if (columns < 3) call.fail("setting.range", "A tube needs at least 3 columns around it.", "columns");
        profiles.push_back(roundProfile(columns));
    } else {
        profiles.push_back(ribbonProfile(form == "ribbon" ? columns : 1));
    }
    double corners = 0;
    for (const SweepProfile& p : profiles) corners += double(p.places.size());
    call.run().require(4 * (corners + 2) * double(path.topology().curvePoint().size()), "corners");
    const bool withProfile = profile.curveCount() > 0 && (form == "profile" || form == "edges only");
    SweepOptions options{normalized(call.vec3("up")), sized(call, path, !withProfile), call.each("twist", path), call.flag("caps"), form == "edges only",
                         call.flag("level")};
    return sweep(path, profile, profiles, options);
}

}  // namespace

OperatorSpec sweepOperator() {
    OperatorSpec spec;
    spec.id = "sweep";
    spec.order = 250;
    spec.label = "Sweep";
    spec.family = Family::curve;
    spec.sentence = "Carries a profile along a path, or makes a ribbon or a tube of it.";
    spec.help =
        "A profile is drawn upright (x to the side, y up) or lying on the ground, and may be several curves. Along the path it does not twist of itself; at "
        "sharp corners it is mitred, so that "
        "straight parts keep their width. Closed profiles give closed solids with caps. Attributes of path and profile are carried; uv runs across (x) and "
        "along (y). Edges only gives the outer lines instead of faces.";
    spec.takes = Takes::curves;
    spec.synonyms = {"pipe", "extrude along", "rail", "tube", "ribbon", "hose", "cable", "strip", "moulding"};
    spec.inputs = {{"path", "Path"}, {"profile", "Profile", false, true}};
    spec.settings = {
        choiceSetting("form", "Form", {"profile", "ribbon", "tube", "edges only"}, "profile")
            .helped("What is carried along the path; without a profile it is a tube."),
        numberSetting("width", "Width", Unit::metre, 0.1).within(0, 1e6).slider(0, 1).each().helped("The full width of a ribbon, the diameter of a tube."),
        numberSetting("scale", "Scale", Unit::none, 1)
            .within(-1e6, 1e6)
            .slider(0, 3)
            .each()
            .helped("Multiplies the size along the path, as by a ramp over along."),
        numberSetting("twist", "Twist", Unit::degree, 0).within(-1e6, 1e6).slider(-180, 180).each().helped("Turns the profile about the path."),
        integerSetting("columns", "Columns", 8).within(1, 100000).slider(1, 32).helped("Faces across a ribbon, or around a tube."),
        flagSetting("caps", "Caps", true).helped("Closes the ends of closed profiles."),
        flagSetting("level", "Keep level", false)
            .helped("Holds up as near to the direction below as the path lets it, at every point: for walkways and rails."),
        vec3Setting("up", "Up", Unit::none, {0, 1, 0}).helped("Up of the profile leans towards this direction where the path starts, or everywhere."),
    };
    spec.sample = sample::step(spec.id, {{"form", "tube"}, {"width", 0.16}, {"columns", 16}}, {sample::way()});
    spec.compute = computeSweep;
    return spec;
}

}  // namespace seedloom

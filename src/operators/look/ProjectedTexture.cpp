// Method: projections of src/operators/surface/Projection; each point takes the mean of the picture at its corners.
#include "geometry/Measures.h"
#include "operators/AttributeWork.h"
#include "operators/look/PictureSampler.h"
#include "operators/surface/Projection.h"
#include "parallel/Loops.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// uv at every corner, by projection or as it is there.
std::vector<Vec2> cornerPlaces(OperatorCall& call, const Geometry& in, const std::string& form) {
    if (form != "uv") return projectionOf(call, in, form).atCorners(in);
    const Column* uv = in.column(Element::corner, "uv");
    if (!uv || uv->type() != ColumnType::vec2) {
        call.offer(insertFix("Unwrap it first", "uv_unwrap"));
        call.offer(setFix("Look at it along an axis", "form", "plane"));
        call.fail("picture.uv", "The surface has no uv that would tell where the picture lies on it.", "form");
    }
    return *uv->as<Vec2>();
}

/// How many pixels lie between neighbouring points in the mean; at least 1.
int pixelsApart(const Geometry& in, const std::vector<Vec2>& places, const PixelPicture& picture) {
    double sum = 0;
    std::size_t count = 0;
    const auto& start = in.topology().faceStart();
    for (Index f = 0; f < in.faceCount(); ++f)
        for (Index c = start[f]; c < start[f + 1]; ++c) {
            const Vec2 step = places[c + 1 < start[f + 1] ? c + 1 : start[f]] - places[c];
            const double pixels = std::hypot(double(step.x) * picture.width, double(step.y) * picture.height);
            if (std::isfinite(pixels)) sum += pixels, ++count;
        }
    return count == 0 ? 1 : int(std::clamp(sum / double(count), 1.0, double(std::max(picture.width, picture.height))));
}

/// What the picture has at each point: the mean over its corners; points of no face are looked at by themselves.
std::vector<PictureValue> valuesAtPoints(OperatorCall& call, const Geometry& in, const PixelPicture& picture) {
    const std::string form = call.choice("form");
    const std::vector<Vec2> places = cornerPlaces(call, in, form);
    const bool repeats = call.choice("beyond") == "repeat";
    const bool turns = form == "cylinder" || form == "sphere";
    const PictureSampler sampler(picture, pixelsApart(in, places, picture), repeats || turns, repeats, call.run());
    std::vector<PictureValue> corners(places.size());
    forEach(corners.size(), call.run(), [&](std::size_t c) { corners[c] = sampler.at(places[c]); });
    std::vector<PictureValue> out(in.pointCount(), {{}, 0});
    std::vector<float> count(in.pointCount());
    for (Index c = 0; c < in.cornerCount(); ++c) {
        const Index p = in.topology().cornerPoint()[c];
        out[p].colour += corners[c].colour, out[p].opacity += corners[c].opacity;
        count[p] += 1;
    }
    const std::optional<Projection> loose = form == "uv" ? std::nullopt : std::optional(projectionOf(call, in, form));
    forEach(out.size(), call.run(), [&](std::size_t p) {
        if (count[p] > 0) out[p] = {out[p].colour / count[p], out[p].opacity / count[p]};
        else if (loose) out[p] = sampler.at(loose->at(in.positions()[p], {}));
    });
    return out;
}

/// Over the colours that are there; over white where there are none.
Geometry coloured(OperatorCall& call, const Geometry& in, const std::vector<PictureValue>& values) {
    const Column* before = in.column(Element::point, "color");
    const auto* under = before ? before->as<Vec3>() : nullptr;
    std::vector<Vec3> out(values.size());
    for (std::size_t p = 0; p < out.size(); ++p) out[p] = mix(under ? (*under)[p] : Vec3{1, 1, 1}, values[p].colour, values[p].opacity);
    return withAttribute(call, in, Element::point, "color", Column(std::move(out)));
}

float strength(const PictureValue& value, bool inverted) { return inverted ? 1 - value.brightness() : value.brightness(); }

Geometry masked(OperatorCall& call, const Geometry& in, const std::vector<PictureValue>& values) {
    std::vector<float> out(values.size());
    for (std::size_t p = 0; p < out.size(); ++p) out[p] = strength(values[p], call.flag("invert"));
    return withAttribute(call, in, Element::point, newName(call, "name"), Column(std::move(out)));
}

Geometry raised(OperatorCall& call, const Geometry& in, const std::vector<PictureValue>& values) {
    const Field<float> height = call.each("height", in), weights = call.weights(in, Element::point);
    const auto still = float(call.number("still"));
    const bool inverted = call.flag("invert");
    const std::vector<Vec3> normals = pointNormals(in);
    std::vector<Vec3> positions = in.positions();
    forEach(positions.size(), call.run(), [&](std::size_t p) {
        const float by = height[p] * weights[p] * (strength(values[p], inverted) - still);
        if (by != 0) positions[p] += normals[p] * by;
    });
    Geometry out = in;
    out.setPositions(std::move(positions));
    return out;
}

Geometry computeProjectedTexture(OperatorCall& call) {
    const Geometry& in = call.in();
    if (in.empty()) return in;
    if (call.text("file").empty()) call.fail("picture.missing", "Choose a picture: a .png or .jpg file.", "file");
    const auto picture = pictureFromBytes(call.bytesOf("file"));
    if (!picture) call.fail(picture.error(), "file");
    call.run().poll();
    const std::vector<PictureValue> values = valuesAtPoints(call, in, *picture);
    if (double(in.pointCount()) * 100 < double(picture->width) * picture->height)
        call.tell(NoticeLevel::info, "picture.coarse",
                  fmt::format("The picture has {} × {} pixels, the surface only {} points: what is smaller is averaged. More points show more of it.",
                              picture->width, picture->height, in.pointCount()));
    const std::string as = call.choice("as");
    return as == "colour" ? coloured(call, in, values) : as == "mask" ? masked(call, in, values) : raised(call, in, values);
}

}  // namespace

OperatorSpec projectedTextureOperator() {
    OperatorSpec spec;
    spec.id = "projected_texture";
    spec.order = 970;
    spec.label = "Picture";
    spec.family = Family::look;
    spec.sentence = "Lays a picture on points: as their colour, as a mask, or as heights.";
    spec.help =
        "Formats: .png with 8 or 16 bits, .jpg. The picture lies on the surface by its uv, or is looked at from one side, from all six, or around an axis. As "
        "a relief, white rises by Height along the normal. Each point takes the mean of the pixels around it, so a fine picture needs many points; what is "
        "transparent leaves the colour as it is, and counts as black otherwise. The file is read again when it changes.";
    spec.synonyms = {"image", "texture", "photo", "heightmap", "height map", "png", "jpg", "bitmap", "relief", "stencil", "terrain"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        fileSetting("file", "File", pictureEndings()).helped("The picture."),
        choiceSetting("as", "As", {"colour", "mask", "relief"}, "colour").helped("What becomes of it: `color`, a number for each point, or heights."),
        textSetting("name", "Name", "mask").when("as", {"mask"}).helped("The attribute to write: 0 is black, 1 is white."),
        numberSetting("height", "Height", Unit::metre, 0.1)
            .within(-1e6, 1e6)
            .slider(-1, 1)
            .each()
            .when("as", {"relief"})
            .helped("How far white rises above black; below 0 it sinks."),
        numberSetting("still", "Stays in place", Unit::part, 0)
            .within(0, 1)
            .when("as", {"relief"})
            .helped("The brightness that does not move: 0 is black, 0.5 the middle."),
        flagSetting("invert", "Invert", false).when("as", {"mask", "relief"}).helped("Black counts as white."),
        choiceSetting("form", "Form", {"uv", "plane", "box", "cylinder", "sphere"}, "plane").helped("How the picture is laid on."),
        choiceSetting("beyond", "Beyond its sides", {"hold", "repeat"}, "hold")
            .helped("The colour of its edge goes on, or the whole picture. Around an axis it always closes."),
    };
    for (SettingSpec& setting : projectionSettings({"plane", "box", "cylinder", "sphere"})) spec.settings.push_back(std::move(setting));
    spec.settings.push_back(whereSetting(Element::point));
    spec.settings.push_back(blendSetting(Element::point));
    spec.compute = computeProjectedTexture;
    return spec;
}

}  // namespace seedloom

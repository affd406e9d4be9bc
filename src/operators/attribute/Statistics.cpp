// Method: own: sums over chunks of fixed size, combined in order.
#include "geometry/Statistics.h"

#include "operators/AttributeWork.h"
#include "operators/OperatorCall.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

Geometry computeStatistics(OperatorCall& call) {
    const Geometry& in = call.in();
    const std::string name = call.text("name"), prefix = call.text("prefix").empty() ? name : call.text("prefix");
    const FoundColumn found = namedAttribute(call, in, "name");
    if (found.column.type() == ColumnType::text)
        call.fail("setting.type", fmt::format("'{}' holds texts, which have no statistics. Choose numbers.", name), "name");
    const Statistics s = statisticsOf(found.column, componentCount(found.column.type()) > 1 ? -1 : 0, 1);
    if (s.nonFinite > 0)
        call.tell(NoticeLevel::warning, "attribute.not_finite", fmt::format("{} of the values are no finite numbers and are left out.", s.nonFinite), "name");
    Geometry out = in;
    const std::pair<const char*, double> all[] = {
        {"_min", s.least}, {"_max", s.most}, {"_mean", s.mean}, {"_sum", s.mean * double(s.count)}, {"_deviation", s.deviation}};
    for (const auto& [ending, value] : all) out.setColumn(Element::model, prefix + ending, Column(std::vector<float>{float(value)}));
    out.setColumn(Element::model, prefix + "_count", Column(std::vector<std::int32_t>{std::int32_t(std::min<std::size_t>(s.count, 2147483647))}));
    return out;
}

}  // namespace

OperatorSpec statisticsOperator() {
    OperatorSpec spec;
    spec.id = "statistics";
    spec.order = 780;
    spec.label = "Statistics";
    spec.family = Family::attribute;
    spec.sentence = "Writes the least, largest and mean value of an attribute onto the model.";
    spec.help =
        "Six model attributes begin with the attribute's name: _min, _max, _mean, _sum, _deviation and _count. Later settings read them by name. Of a vector "
        "the length counts.";
    spec.synonyms = {"min", "max", "mean", "sum", "average", "range", "count", "reduce"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {textSetting("name", "Attribute", "mask").helped("The attribute to sum up."),
                     textSetting("prefix", "Begin names with", "").helped("How the new names begin; empty: as the attribute.")};
    spec.sample = sample::step("colour", {{"attribute", "mask"}},
                               {sample::step(spec.id, Json::object(),
                                             {sample::step("set_attribute", {{"name", "mask"}, {"value", {{"formula", "position.y > 0.15 ? 1 : 0"}}}},
                                                           {sample::ball(0.6, 8)})})});
    spec.compute = computeStatistics;
    return spec;
}

}  // namespace seedloom

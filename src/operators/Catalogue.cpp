#include "operators/Catalogue.h"

#include "operators/AllOperators.h"

namespace seedloom {

const std::vector<OperatorSpec>& catalogue() {
    static const std::vector<OperatorSpec> all{
        pointListOperator(), lineOperator(), polygonOperator(), gridOperator(), boxOperator(), sphereOperator(),
        resampleOperator(), smoothCurveOperator(), curveDirectionsOperator(), revolveOperator(),
        thickenOperator(), subdivideOperator(), weldOperator(), flipOperator(), normalsOperator(),
        transformOperator(), noiseDisplaceOperator(),
        setAttributeOperator(), formulaOperator(), remapOperator(), blurAttributeOperator(), distanceOperator(), measureOperator(), tagOperator(), colourOperator(),
        randomAttributeOperator(), transferOperator(), changeElementOperator(), renameAttributeOperator(), removeAttributeOperator(), statisticsOperator(),
        mergeOperator(), splitOperator(), switchOperator(), outputOperator(),
    };
    return all;
}

const OperatorSpec* findOperator(std::string_view id) {
    for (const OperatorSpec& spec : catalogue())
        if (spec.id == id) return &spec;
    return nullptr;
}

std::shared_ptr<const OperatorSpec> operatorFor(std::string_view id, const Json& written) {
    const OperatorSpec* spec = findOperator(id);
    std::vector<SettingSpec> own = spec && spec->ownSettings ? spec->ownSettings(written) : std::vector<SettingSpec>{};
    if (own.empty()) return {std::shared_ptr<void>(), spec};  // lives as long as the catalogue
    auto extended = std::make_shared<OperatorSpec>(*spec);
    for (SettingSpec& setting : own)
        if (!extended->setting(setting.id)) extended->settings.push_back(std::move(setting));
    return extended;
}

}  // namespace seedloom

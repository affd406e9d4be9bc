#include "operators/Catalogue.h"

#include "operators/AllOperators.h"

namespace seedloom {

const std::vector<OperatorSpec>& catalogue() {
    static const std::vector<OperatorSpec> all{
        pointListOperator(), lineOperator(), polygonOperator(), gridOperator(), boxOperator(), sphereOperator(),
        resampleOperator(), smoothCurveOperator(), curveDirectionsOperator(), revolveOperator(),
        thickenOperator(), subdivideOperator(), weldOperator(), flipOperator(), normalsOperator(),
        transformOperator(), noiseDisplaceOperator(),
        setAttributeOperator(), remapOperator(),
        mergeOperator(), splitOperator(), switchOperator(), outputOperator(),
    };
    return all;
}

const OperatorSpec* findOperator(std::string_view id) {
    for (const OperatorSpec& spec : catalogue())
        if (spec.id == id) return &spec;
    return nullptr;
}

}  // namespace seedloom

#include "operators/Catalogue.h"

#include "operators/AllOperators.h"

#include <algorithm>

namespace seedloom {

const std::vector<OperatorSpec>& catalogue() {
    static const std::vector<OperatorSpec> all{
        pointListOperator(),
        drawnCurveOperator(),
        lineOperator(),
        polygonOperator(),
        gridOperator(),
        boxOperator(),
        cylinderOperator(),
        sphereOperator(),
        geodesicSphereOperator(),
        solidOperator(),
        torusOperator(),
        spiralOperator(),
        textOperator(),
        importMeshOperator(),
        inputGeometryOperator(),
        resampleOperator(),
        smoothCurveOperator(),
        roundCornersOperator(),
        curveDirectionsOperator(),
        offsetCurveOperator(),
        joinCurvesOperator(),
        cutCurveOperator(),
        fillCurveOperator(),
        revolveOperator(),
        sweepOperator(),
        edgeRodsOperator(),
        featureCurvesOperator(),
        extrudeOperator(),
        bevelOperator(),
        thickenOperator(),
        subdivideOperator(),
        weldOperator(),
        flipOperator(),
        orientOperator(),
        deleteOperator(),
        separateOperator(),
        planeCutOperator(),
        mirrorOperator(),
        booleanOperator(),
        fillHolesOperator(),
        triangulateOperator(),
        dualOperator(),
        simplifyOperator(),
        remeshOperator(),
        voxelRemeshOperator(),
        smoothOperator(),
        snapToSurfaceOperator(),
        normalsOperator(),
        uvProjectOperator(),
        uvUnwrapOperator(),
        transformOperator(),
        fitOperator(),
        bendOperator(),
        taperOperator(),
        twistOperator(),
        profileScaleOperator(),
        movePointsOperator(),
        noiseDisplaceOperator(),
        spreadPointsOperator(),
        morphToSphereOperator(),
        stretchToCurveOperator(),
        drapeByUvOperator(),
        cageOperator(),
        setAttributeOperator(),
        paintMaskOperator(),
        formulaOperator(),
        remapOperator(),
        blurAttributeOperator(),
        distanceOperator(),
        measureOperator(),
        tagOperator(),
        colourOperator(),
        randomAttributeOperator(),
        transferOperator(),
        changeElementOperator(),
        renameAttributeOperator(),
        removeAttributeOperator(),
        statisticsOperator(),
        scatterOperator(),
        pointsFromOperator(),
        placeCopiesOperator(),
        beadsOperator(),
        randomTransformOperator(),
        thinOutOperator(),
        restOnOperator(),
        bakeCopiesOperator(),
        mergeOperator(),
        splitOperator(),
        switchOperator(),
        eachPieceOperator(),
        repeatOperator(),
        nestOperator(),
        assetOperator(),
        innerInputOperator(),
        outputOperator(),
        materialOperator(),
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
    // Right below the formula that declares them.
    auto& settings = extended->settings;
    const auto formula = std::find_if(settings.begin(), settings.end(), [](const SettingSpec& s) { return s.type == SettingType::formula; });
    std::size_t at = formula == settings.end() ? settings.size() : std::size_t(formula - settings.begin()) + 1;
    for (SettingSpec& setting : own)
        if (!extended->setting(setting.id)) settings.insert(settings.begin() + std::ptrdiff_t(at++), std::move(setting));
    return extended;
}

}  // namespace seedloom

#pragma once
// Declarations of the operators, one in each file of the same name.
#include "operators/OperatorCall.h"

namespace seedloom {

OperatorSpec pointListOperator();
OperatorSpec lineOperator();
OperatorSpec polygonOperator();
OperatorSpec gridOperator();
OperatorSpec boxOperator();
OperatorSpec sphereOperator();
OperatorSpec cylinderOperator();
OperatorSpec torusOperator();
OperatorSpec spiralOperator();
OperatorSpec solidOperator();
OperatorSpec geodesicSphereOperator();
OperatorSpec resampleOperator();
OperatorSpec smoothCurveOperator();
OperatorSpec curveDirectionsOperator();
OperatorSpec revolveOperator();
OperatorSpec thickenOperator();
OperatorSpec subdivideOperator();
OperatorSpec weldOperator();
OperatorSpec flipOperator();
OperatorSpec orientOperator();
OperatorSpec deleteOperator();
OperatorSpec separateOperator();
OperatorSpec mirrorOperator();
OperatorSpec planeCutOperator();
OperatorSpec fillHolesOperator();
OperatorSpec triangulateOperator();
OperatorSpec smoothOperator();
OperatorSpec normalsOperator();
OperatorSpec transformOperator();
OperatorSpec bendOperator();
OperatorSpec twistOperator();
OperatorSpec taperOperator();
OperatorSpec profileScaleOperator();
OperatorSpec fitOperator();
OperatorSpec movePointsOperator();
OperatorSpec noiseDisplaceOperator();
OperatorSpec setAttributeOperator();
OperatorSpec formulaOperator();
OperatorSpec remapOperator();
OperatorSpec blurAttributeOperator();
OperatorSpec changeElementOperator();
OperatorSpec randomAttributeOperator();
OperatorSpec distanceOperator();
OperatorSpec measureOperator();
OperatorSpec tagOperator();
OperatorSpec colourOperator();
OperatorSpec transferOperator();
OperatorSpec renameAttributeOperator();
OperatorSpec removeAttributeOperator();
OperatorSpec statisticsOperator();
OperatorSpec paintMaskOperator();
OperatorSpec mergeOperator();
OperatorSpec splitOperator();
OperatorSpec switchOperator();
OperatorSpec outputOperator();

}  // namespace seedloom

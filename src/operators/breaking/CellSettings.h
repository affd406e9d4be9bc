#pragma once
// Settings that operators which break into cells have in common.
#include "breaking/RoughWalls.h"
#include "operators/OperatorCall.h"

namespace seedloom {

SettingSpec cellCountSetting();
SettingSpec cellSeedSetting();
SettingSpec gatherSetting();
SettingSpec roughnessSetting(std::string help);
SettingSpec noiseSizeSetting();

enum class SeedsIn : std::uint8_t { volume, surface };
/// The points of the second port, or as many places as `pieces` says; the first `most` of them. Fails where something is linked that has none.
std::vector<Vec3> seedsOf(const OperatorCall& call, const Geometry& whole, SeedsIn in, std::size_t most);
constexpr std::size_t kAllCells = ~std::size_t{0}, kCoarseCells = 24;
/// Bumps of at most `amount` metres, with a noise size that makes no `what` go through each other; tells where that is not the one that was asked for.
Roughness roughnessOf(OperatorCall& call, const std::string& what, double amount);
/// Tells of cells that the gap, `widest` metres at most, has taken away; fails where it has taken all.
void tellOfGap(OperatorCall& call, const std::vector<Index>& cellOfPiece, const std::vector<Vec3>& seeds, double widest);

}  // namespace seedloom

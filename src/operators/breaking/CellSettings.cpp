#include "operators/breaking/CellSettings.h"

#include "breaking/CellSeeds.h"
#include "geometry/NearestPlace.h"

#include <fmt/format.h>

namespace seedloom {

SettingSpec cellCountSetting() {
    return integerSetting("pieces", "Pieces", 20).within(1, 100000).slider(1, 200).helped("How many cells, where no Seeds are linked.");
}
SettingSpec cellSeedSetting() { return numberSetting("seed", "Seed", Unit::none, 0).slider(0, 100).helped("Another seed gives other cells and bumps."); }
SettingSpec gatherSetting() {
    return numberSetting("cluster", "Gather", Unit::part, 0)
        .within(0, 1)
        .slider(0, 1)
        .helped("0 spreads the cells evenly, 1 gathers small ones at three places.");
}
SettingSpec roughnessSetting(std::string help) {
    return numberSetting("roughness", "Roughness", Unit::metre, 0).within(0, 1000).slider(0, 0.05).helped(std::move(help));
}
SettingSpec noiseSizeSetting() {
    return numberSetting("noise_size", "Noise size", Unit::metre, 0.2).within(1e-6, 1e6).slider(0.02, 1).helped("From one bump to the next.");
}

namespace {

/// What was broken with the same seed before would be cut along nearly the same walls once more, where rounding could not tell them apart: other cells, then.
double againOffset(const Geometry& whole) {
    const auto* piece = whole.values<std::int32_t>(Element::face, "piece");
    if (!piece || piece->empty()) return 0;
    return 0.618034 * (1 + double(*std::max_element(piece->begin(), piece->end())));
}

}  // namespace

std::vector<Vec3> seedsOf(const OperatorCall& call, const Geometry& whole, SeedsIn in, std::size_t most) {
    if (call.port(1).empty()) {
        const auto make = in == SeedsIn::volume ? cellSeeds : cellSeedsOn;
        return make(whole, std::min(most, std::size_t(call.integer("pieces"))), call.number("seed") + againOffset(whole), call.number("cluster"), call.run());
    }
    std::vector<Vec3> out;
    for (const Geometry& g : call.port(1))
        for (Vec3 p : g.positions())
            if (isFinite(p) && out.size() < most) out.push_back(p);
    if (out.empty()) call.fail("break.no_seeds", "There are no points in Seeds. Link points to it, or unlink it to go by Pieces.");
    return out;
}

Roughness roughnessOf(OperatorCall& call, const std::string& what, double amount) {
    Roughness rough{amount, call.number("noise_size"), std::uint32_t(std::int64_t(std::floor(call.number("seed") * 1024)))};
    const double least = twoDigits(leastNoiseSize(rough.amount), [](double v) { return std::ceil(v - 1e-9); });
    if (rough.amount > 0 && rough.size < least) {
        call.offer(setFix(fmt::format("Set Noise size to {:g} m", least), "noise_size", least));
        call.tell(NoticeLevel::info, "break.noise_size",
                  fmt::format("{} with bumps of {:.3g} m would go through each other at so small a Noise size: {:g} m is used.", what, rough.amount, least),
                  "noise_size");
        rough.size = least;
    }
    return rough;
}

namespace {

/// Two digits under half of how far seeds are from their nearest: of such a gap most pieces are left.
double possibleGap(const std::vector<Vec3>& seeds) {
    std::vector<double> apart;
    for (std::size_t i = 0; i < std::min<std::size_t>(seeds.size(), 200); ++i) {
        double least = 1e30;
        for (std::size_t k = 0; k < seeds.size(); ++k)
            if (k != i) least = std::min(least, double(distance(seeds[i], seeds[k])));
        apart.push_back(least);
    }
    std::nth_element(apart.begin(), apart.begin() + std::ptrdiff_t(apart.size() / 2), apart.end());
    return twoDigits(std::clamp(apart[apart.size() / 2] * 0.4, 1e-6, 1e6), std::floor);
}

}  // namespace

void tellOfGap(OperatorCall& call, const std::vector<Index>& cellOfPiece, const std::vector<Vec3>& seeds, double widest) {
    std::vector<std::uint8_t> there(seeds.size(), 0);
    for (Index cell : cellOfPiece) there[cell] = 1;
    const auto gone = std::size_t(std::count(there.begin(), there.end(), 0));
    const bool own = call.port(1).empty();  // linked points may lie where there is nothing to break
    if (!cellOfPiece.empty() && (gone == 0 || !own)) return;
    const double possible = possibleGap(seeds);
    // Of something tiny not even that leaves anything.
    if (cellOfPiece.empty() && possible >= widest) {
        call.offer(setFix("Leave no gap", "gap", 0));
        call.fail("break.gap", "The gap is wider than the whole: nothing would be left.", "gap");
    }
    call.offer(setFix(fmt::format("Set Gap to {:g} m", possible), "gap", possible));
    if (cellOfPiece.empty())
        call.fail("break.gap", fmt::format("The gap is wider than the pieces: nothing would be left. About {:g} m is possible.", possible), "gap");
    call.tell(NoticeLevel::info, "break.gap", fmt::format("{} of {} pieces are narrower than the gap and are gone.", gone, seeds.size()), "gap");
}

}  // namespace seedloom

#include "scatter/Relax.h"

#include "parallel/Loops.h"
#include "scatter/PointGrid.h"

namespace seedloom {

void relaxPlaces(std::vector<Place>& places, const std::vector<float>& reach, const RelaxOptions& options, const RunContext& run) {
    constexpr float kStep = 0.45f;  // of the way that would bring two lone points to their distance
    constexpr float kMost = 0.25f;  // of the reach, so that no point jumps over another
    std::vector<Vec3> at(places.size());
    for (int round = 0; round < options.rounds; ++round) {
        for (std::size_t i = 0; i < at.size(); ++i) at[i] = places[i].position;
        const PointGrid grid(at, typicalReach(reach));
        forEach(
            at.size(), run,
            [&](std::size_t i) {
                const float r = reach[i];
                if (!(r > 0)) return;
                Vec3 push{};
                grid.within(at[i], r, [&](Index j) {
                    if (j == i) return;
                    const Vec3 way = at[i] - at[j];
                    const float far = length(way);
                    // Points on the same place go apart in directions of their own.
                    if (far > 0) push += way * ((r - far) / (r * far));
                    else push += Vec3{i < j ? 1.0f : -1.0f, 0, float(i % 3) - 1};
                });
                const float strength = length(push);
                if (strength == 0) return;
                const float step = std::min(strength * kStep * r * 0.25f, kMost * r);
                if (const auto settled = options.settle(at[i] + push * (step / strength), places[i])) places[i] = *settled;
            },
            512);
        run.setProgress(float(round + 1) / float(options.rounds));
    }
}

}  // namespace seedloom

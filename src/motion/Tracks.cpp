#include "motion/Tracks.h"

#include "geometry/Measures.h"

#include <unordered_map>

namespace seedloom {

namespace {

constexpr float kHardly = 1e-5f;  // of all that is followed: points so near to each other would be one and the same

struct Track {
    std::int64_t id = 0;
    std::vector<Vec3> places;
    std::vector<float> ages;
};

/// Follows things by their numbers from moment to moment.
class Tracker {
public:
    Tracker(const Moments& moments, int now, const RunContext& run) : now_(now), run_(run) {
        Bounds bounds;
        for (const auto& moment : moments)
            for (const Vec3 place : moment->places)
                if (isFinite(place)) bounds.add(place);
        if (!bounds.empty) hardly_ = kHardly * float(bounds.diagonal());
    }

    void add(const Moment& moment) {
        run_.poll();
        if (moment.ids != ids_) number(moment);
        for (std::size_t i = 0; i < moment.places.size(); ++i) {
            if (!isFinite(moment.places[i])) continue;
            Thing& thing = things_[slots_[i]];
            if (thing.seen != step_ || step_ == 0) begin(thing, (*moment.ids)[i]);
            thing.seen = step_ + 1;
            Track& track = tracks_[thing.track];
            if (!track.places.empty() && length(track.places.back() - moment.places[i]) <= hardly_) continue;
            track.places.push_back(moment.places[i]);
            track.ages.push_back(float(now_ - moment.frame));
            run_.require(double(++points_), "points of tracks");
        }
        ++step_;
    }
    std::vector<Track> take() {
        std::erase_if(tracks_, [](const Track& track) { return track.places.size() < 2; });
        return std::move(tracks_);
    }

private:
    struct Thing {
        std::size_t track = 0, seen = 0;  ///< `seen`: one more than the last step at which it was there
    };
    void number(const Moment& moment) {
        ids_ = moment.ids;
        slots_.clear();
        for (const std::int64_t id : *ids_) slots_.push_back(known_.try_emplace(id, known_.size()).first->second);
        things_.resize(known_.size());
    }
    void begin(Thing& thing, std::int64_t id) {
        thing.track = tracks_.size();
        tracks_.push_back({id, {}, {}});
    }

    const int now_;
    float hardly_ = 0;  ///< m: what moved by no more stands still
    const RunContext& run_;
    std::shared_ptr<const std::vector<std::int64_t>> ids_;
    std::vector<std::size_t> slots_;  ///< by place in the moment
    std::unordered_map<std::int64_t, std::size_t> known_;
    std::vector<Thing> things_;
    std::vector<Track> tracks_;
    std::size_t step_ = 0, points_ = 0;
};

/// 0–1 by length.
void addAlong(const std::vector<Vec3>& places, std::vector<float>& out) {
    double whole = 0, way = 0;
    for (std::size_t i = 1; i < places.size(); ++i) whole += double(length(places[i] - places[i - 1]));
    for (std::size_t i = 0; i < places.size(); ++i) {
        if (i > 0) way += double(length(places[i] - places[i - 1]));
        out.push_back(i + 1 == places.size() ? 1.0f : float(way / whole));
    }
}

}  // namespace

Geometry tracksOf(const Moments& moments, int now, const RunContext& run) {
    Tracker tracker(moments, now, run);
    for (const auto& moment : moments) tracker.add(*moment);
    std::vector<Vec3> positions;
    std::vector<float> along, ages;
    std::vector<Index> start{0}, points;
    std::vector<std::int32_t> ids;
    for (const Track& track : tracker.take()) {
        for (const Vec3 place : track.places) points.push_back(Index(positions.size())), positions.push_back(place);
        addAlong(track.places, along);
        ages.insert(ages.end(), track.ages.begin(), track.ages.end());
        start.push_back(Index(positions.size()));
        ids.push_back(std::int32_t(track.id));
    }
    const std::size_t count = positions.size(), curves = ids.size();
    Geometry out(std::move(positions), Topology(count, {0}, {}, std::move(start), std::move(points), std::vector<std::uint8_t>(curves)));
    out.setColumn(Element::point, "along", Column(std::move(along)));
    out.setColumn(Element::point, "age", Column(std::move(ages)));
    out.setColumn(Element::curve, "id", Column(std::move(ids)));
    return out;
}

}  // namespace seedloom

#pragma once
// How hard bonds are loaded: bodies as rigid blocks, bonds as the elastic joints between them.
#include "motion/Bonds.h"

namespace seedloom {

/// Those of one clump, ready to be asked for loads. Bonds stretch, shear, bend and twist by their area and by how far apart the bodies' centres are; where
/// nothing is held, what pulls the clump along as a whole is taken off by the forces of inertia (d'Alembert).
class BondFrame {
public:
    /// `members`: bodies of the clump; `bonds`: all of theirs. A clump whose bodies are all held, or with one body, has no loads.
    BondFrame(std::vector<std::uint32_t> members, std::vector<Bond> bonds, const std::vector<RigidBody>& bodies, const std::vector<BodyState>& start,
              const std::vector<std::uint8_t>& held);
    ~BondFrame();

    /// The largest pull in each bond, Pa, by the criterion of Rankine over a square of the bond's area; a tenth of the pressure counts as one. `loads` act
    /// on the bodies in the world, where the clump is turned by `turn` from its start.
    std::vector<double> pulls(const std::vector<BodyLoad>& loads, const Rotation& turn) const;

private:
    struct Own;
    std::unique_ptr<Own> own_;
};

}  // namespace seedloom

#pragma once
// What tests ask of solids.
#include "support/Run.h"

namespace seedloom::test {

inline void verifySolid(const Geometry& g) {
    const Checkup c = checkupOf(g);
    QVERIFY2(c.closed, "closed");
    QVERIFY2(c.manifold, "manifold");
    QVERIFY2(c.consistentWinding, "winding");
    QCOMPARE(c.degenerateFaces, 0u);
    QCOMPARE(c.doubledPoints, 0u);
    QVERIFY2(c.volume > 0, "volume");
}

/// How many faces carry the tag; a huge number where there is no such tag.
inline std::size_t tagged(const Geometry& g, const char* tag) {
    const auto* values = g.values<std::uint8_t>(Element::face, tag);
    return values ? std::size_t(std::count(values->begin(), values->end(), 1)) : ~std::size_t(0);
}

}  // namespace seedloom::test

#pragma once
// Applies edits in tests.
#include "graph/Edit.h"

#include <QtTest/QtTest>

namespace seedloom::test {

/// Applies an edit, checks that it can be taken back, and gives the result.
inline Loom after(const Loom& loom, const Edit& edit) {
    const auto next = applied(loom, edit);
    if (!next) QTest::qFail(next.error().text.c_str(), __FILE__, __LINE__);
    const auto back = applied(*next, inverse(edit));
    if (!back || !(*back == loom)) QTest::qFail("the edit can't be taken back", __FILE__, __LINE__);
    return *next;
}

}  // namespace seedloom::test

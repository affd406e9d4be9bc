#pragma once
// Which operators fit what somebody typed, and in which order.
#include "geometry/Geometry.h"
#include "operators/Spec.h"

#include <QtCore/QStringList>

#include <optional>

namespace seedloom::app {

/// What a geometry mostly is, for what can follow it.
enum class Flow : unsigned char { nothing, points, curves, faces, copies };
Flow flowOf(const Geometry& geometry);
/// Whether an operator can do something with it.
bool takes(const OperatorSpec& spec, Flow flow);

struct QuickAddContext {
    bool onlyFitting = false;  ///< a pulled thread: only what takes an input, and this one
    std::optional<Flow> flow;  ///< of the node that it would come behind
    QStringList recent;        ///< operator ids, the last one used first
};

/// Best first: by the words (names before synonyms before sentences, one slip of the finger allowed), then by what fits, then by recent use.
/// An empty text gives all that can be.
std::vector<const OperatorSpec*> operatorsFor(const QString& typed, const QuickAddContext& context);

}  // namespace seedloom::app

#pragma once
// Which operators fit what somebody typed, and in which order.
#include "operators/Flow.h"

#include <QtCore/QStringList>

#include <optional>

namespace seedloom::app {

struct QuickAddContext {
    bool onlyFitting = false;  ///< a pulled thread: only what takes an input, and this one
    std::optional<Flow> flow;  ///< of the node that it would come behind
    QStringList recent;        ///< operator ids, the last one used first
};

/// Best first: by the words (names before synonyms before sentences, one slip of the finger allowed), then by what fits, then by recent use.
/// An empty text gives all that can be.
std::vector<const OperatorSpec*> operatorsFor(const QString& typed, const QuickAddContext& context);

}  // namespace seedloom::app

#pragma once
// The size that is offered where the one that was asked for has no room.
#include <functional>

namespace seedloom {

/// The greatest size under `wished` found for which `fits` is true, of two digits: some shares of it are tried from the greatest on, then sizes between the
/// last that does not fit and the first that does. 0 where not even a twenty-fifth fits. At most nine calls.
double greatestFit(double wished, const std::function<bool(double)>& fits);

}  // namespace seedloom

#pragma once
#include "core/base/error.h"
#include "core/shadow/shadow_audit.h"

namespace mirolux {

/// What moves a lookup away from the surface that asks.
struct BiasSet {
    double bias = 0;         // metres
    double slopeBias = 0;    // texels
    double normalOffset = 0; // texels

    bool operator==(const BiasSet&) const = default;
};

/// The set as the light's own values.
inline void put_bias(Light& light, const BiasSet& set) {
    light.shadow.bias = static_cast<float>(set.bias);
    light.shadow.slopeBias = static_cast<float>(set.slopeBias);
    light.shadow.normalOffset = static_cast<float>(set.normalOffset);
}

struct BiasPoint {
    BiasSet set;
    double missed = 0, falsely = 0; // shares of pairs
};

struct BiasSolution {
    BiasPoint before;              // as it is
    BiasPoint best;                // the least missed of those under the bound; without any, the least false
    bool under = false;            // best is under the bound
    std::vector<BiasPoint> points; // all that were tried, in order
    std::vector<BiasPoint> front;  // those that no other betters in both, by falsely
};

/// The set that misses least while it shadows falsely no more than `bound`, found by trying: for each normal offset and
/// slope bias the least constant bias under the bound by bisection, skipping what misses more than the best so far.
/// Takes 20 to 80 evaluations. evaluate: errors with a set; its error ends the search. go_on: asked before each.
Result<BiasSolution> solve_bias(const BiasSet& present, double bound,
                                const std::function<Result<ShadowErrors>(const BiasSet&)>& evaluate,
                                const std::function<bool(double)>& go_on = {});

} // namespace mirolux

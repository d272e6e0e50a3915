#pragma once
#include "core/cost/frame_record.h"
#include "core/shadow/bias_solver.h"

// Audits and searches of shadows with a session that renders: what is rendered, held against rays, light by light.
namespace mirolux {

/// Where the rays of an audit come from and what it is about.
struct ShadowQuestion {
    Scene scene; // with its pictures: masked surfaces are traced with their holes
    Setup setup;
    View view;
    int every = 1;              // of pixels in both directions
    std::optional<int> light{}; // Light::id: this one alone
};

struct ShadowReport {
    struct OfLight {
        int light = -1; // Light::id
        std::string name;
        ShadowErrors errors;
    };
    ShadowErrors all;
    std::vector<OfLight> lights;
    std::vector<std::string> unmapped; // names of lights without a map
    std::string why;                   // of these, as a sentence
    int width = 0, height = 0, every = 1;
    std::vector<ShadowFault> faults; // pixels row by row from the top; those between every so many have none
};

/// Traces, renders and compares. `least`: the least error that marks a pixel. Errors: the session's; no maps. go_on is
/// told what is being done and the share of it; false stops, and the report has what was found so far.
Result<ShadowReport> audit_shadows(RenderSession& session, const ShadowQuestion& question, double least = 0.1,
                                   const std::function<bool(const char*, double)>& go_on = {});

/// The least bias set that keeps false under a bound (bias_solver.h), of the setup or of the question's one light.
Result<BiasSolution> find_bias(RenderSession& session, const ShadowQuestion& question, double bound,
                               const std::function<bool(const char*, double)>& go_on = {});

} // namespace mirolux

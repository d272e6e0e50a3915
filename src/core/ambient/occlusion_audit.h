#pragma once
#include "core/image/image.h"
#include "core/plan/frame_plan.h"
#include "core/rays/ray_scene.h"
#include "core/truth/path_tracer.h"

// The screen's occlusion held against rays.
namespace mirolux {

/// How near the screen's occlusion comes to traced one, over pixels.
struct OcclusionErrors {
    std::size_t pixels = 0;
    double mean = 0, p95 = 0, worst = 0; // of |screen - traced|
    double bias = 0;                     // mean of screen - traced: under 0 the screen is too dark
    double traced = 0;                   // mean share that is open
};
OcclusionErrors occlusion_errors(const std::vector<std::pair<double, double>>& screenAndTraced);

/// What truth is asked for to be held against the screen's occlusion: with its radius and its fade.
truth::Options occlusion_truth(const Setup& setup);

/// Traces every `every`th pixel in both directions that shows a surface, `samples` rays each, and compares. screen:
/// layer screenOcclusion; depth: layer depth, 0 where nothing is seen. go_on: told the share done, may stop.
OcclusionErrors audit_occlusion(const Scene& scene, const Setup& setup, const View& view,
                                std::shared_ptr<const RayScene> rays, const FloatImage& screen, const FloatImage& depth,
                                int every, std::uint32_t samples, const std::function<bool(double)>& go_on = {});

} // namespace mirolux

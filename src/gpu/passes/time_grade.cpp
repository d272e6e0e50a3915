#include "gpu/passes/flat_lights.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static Result<Commands> prepare_time_grade(PassFrame& f, const PlannedPass& pass) {
    if (pass.name == "lamps") return prepare_flat_lights(f, {.target = "lamps"});
    return pass.name == "grade" ? prepare_flat_shown(f, "time_grade/grade.glsl", "graded")
                                : prepare_flat_shown(f, "time_grade/mix.glsl");
}

const GpuTechnique technique::time_grade{prepare_time_grade};

} // namespace mirolux::gpu

#include "core/finish/working_space.h"
#include "core/image/image_io.h"
#include "core/technique/plan_builder.h"

namespace mirolux {

bool sums_coded(const Setup& setup) {
    return setup.choice("output.space") == "gamma";
}

glm::dvec3 coded(const glm::dvec3& linear) {
    const auto code = [](double x) { return srgb_encode(std::max(x, 0.0)); };
    return {code(linear.x), code(linear.y), code(linear.z)};
}

glm::dvec3 coded_radiance(const glm::dvec3& radiance, double scale) {
    return coded(radiance * scale) / scale;
}

namespace technique {

static void plan_working_space(const FrameInputs& in, PlanBuilder& b) {
    if (!sums_coded(in.setup)) return;
    b.define("SUMS_CODED");
    b.note("Light is summed in gamma-coded values: wrong, to see what it does (output.space).");
}

const Technique& working_space() {
    static const Technique technique{
        .name = "working_space",
        .settings = {choice_setting("output.space", "Working space", "Finish", {"linear", "gamma"}, "linear",
                                    "linear: light adds up as it does; gamma: colours as a display is sent them are "
                                    "summed, which is wrong: hard terminators, steep fall-off, sums too bright. A view "
                                    "of the mistake.")},
        .plan = plan_working_space,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux

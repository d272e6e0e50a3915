#include "core/motion/motion.h"
#include "core/path/surface_pass.h"

namespace mirolux {

glm::dmat4 to_before(const FrameInputs& in, int object) {
    if (!in.before || object < 0) return glm::dmat4(1.0);
    const auto o = static_cast<std::size_t>(object);
    const glm::mat4 now = in.scene.objects()[o].transform,
                    then = (in.before->placed ? in.before->placed->objects : in.scene.asset->objects)[o].transform;
    if (now == then) return glm::dmat4(1.0);
    return glm::dmat4(then) * glm::inverse(glm::dmat4(now));
}

std::optional<glm::dvec2> motion_of(const FrameInputs& in, int object, const glm::dvec3& point) {
    const View& now = in.view;
    const Camera& before = in.before ? in.before->view.camera : now.camera;
    const double aspect = aspect_of(now), w = object < 0 ? 0.0 : 1.0;
    const auto pixel = [&](const Camera& c, const glm::dvec4& p) -> std::optional<glm::dvec2> {
        const glm::dvec4 clip = glm::dmat4(projection_matrix(c, aspect)) * glm::dmat4(view_matrix(c)) * p;
        if (clip.w <= 1e-6) return std::nullopt;
        return glm::dvec2((clip.x / clip.w * 0.5 + 0.5) * now.width, (0.5 - clip.y / clip.w * 0.5) * now.height);
    };
    const auto a = pixel(now.camera, glm::dvec4(point, w)),
               b = pixel(before, to_before(in, object) * glm::dvec4(point, w));
    if (!a || !b) return std::nullopt;
    return *a - *b;
}

namespace technique {

static void plan_motion(const FrameInputs& in, PlanBuilder& b) {
    if (in.setup.choice("motion.write") != "always" && !b.wanted("motion")) return;
    b.resource({.name = "motion", .sampler = "motionTexture", .format = Format::rg32f, .kept = true});
    b.resource({.name = "motion depth", .format = Format::depth32f});
    b.pass({.name = "motion",
            .family = "depth",
            .what = "Writes how far each pixel's surface has moved in the picture since the frame before.",
            .reads = {},
            .writes = {"motion", "motion depth"},
            .settings = {"motion.write"},
            .expected = work_of(in, in.draws.opaque),
            .overGeometry = true,
            .needsBefore = true});
}

static void price_motion(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &motion()) return;
    const auto fragments = static_cast<double>(w.at("fragments"));
    t["operation"] = fragments * 24; // three products of matrix and vector and two divisions
    t["writeFloat"] = fragments * 8;
    t["writeDepth"] = std::max(0.0, fragments - plan.pixels()) * 4; // the sky's triangle writes none
    t["clear"] = plan.pixels() * 4;
    t["filteredRead"] = static_cast<double>(w.at("textureReads"));
}

const Technique& motion() {
    static const Technique technique{
        .name = "motion",
        .settings = {choice_setting(
            "motion.write", "Motion target", "Path", {"when-read", "always"}, "when-read",
            "How far each pixel has moved in the picture since the frame before, from the frames' cameras and the "
            "objects' places: written when a technique reads it, or always, to look at; draws the geometry once "
            "more.")},
        .layers = {{.name = "motion",
                    .label = "Motion",
                    .help = "Movement of each pixel since the frame before: direction as hue, pixels as brightness "
                            "(white from 64).",
                    .view = LayerView::motion,
                    .resource = "motion",
                    .when = {{"motion.write", {"always"}}}}},
        .plan = plan_motion,
        .price = price_motion,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux

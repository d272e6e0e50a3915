#include "core/flat/cascades.h"
#include "gpu/passes/flat_lights.h"
#include "gpu/passes/surface_pass.h"
#include <glm/gtc/constants.hpp>

namespace mirolux::gpu {

namespace {

/// A kernel over `width` by `height` cells.
struct Kernel {
    Stage stage;
    int width = 1, height = 1, level = -1; // level -1: it has none

    void run() const {
        stage.use();
        if (level >= 0) glUniform1i(stage.uniform("level"), level);
        glDispatchCompute(static_cast<GLuint>((width + 15) / 16), static_cast<GLuint>((height + 3) / 4), 1);
        glMemoryBarrier(GL_TEXTURE_FETCH_BARRIER_BIT | GL_SHADER_IMAGE_ACCESS_BARRIER_BIT);
    }
};

/// What comes from outside in each direction of each level.
void upload_sky(PassFrame& f, const flat::CascadeShape& shape) {
    const flat::PlaneSky sky = flat::plane_sky(f.inputs.draws.lights, glm::dvec3(f.inputs.setup.color("flat.ambient")));
    std::vector<glm::vec4> values;
    for (const flat::CascadeLevel& l : shape.levels)
        for (int i = 0; i < l.rays; ++i) {
            const double part = 2 * glm::pi<double>() / l.rays;
            values.emplace_back(glm::vec3(sky.within(i * part, (i + 1) * part)), 0.0f);
        }
    f.upload("PlaneSkyBuffer", values.data(), values.size() * sizeof(glm::vec4));
}

Result<Commands> prepare_cascades(PassFrame& f, const PlannedPass& pass) {
    if (pass.family == "transparent") return prepare_flat_shown(f, "cascades/apply.glsl");
    const flat::CascadeShape shape = flat::cascade_shape(f.inputs.setup, f.inputs.view);
    upload_sky(f, shape);
    std::vector<Kernel> kernels;
    std::optional<Error> trouble;
    const auto add = [&](const char* file, std::vector<std::string> defines, int width, int height, int level) {
        auto stage = f.stage({{GL_COMPUTE_SHADER, file, ""}}, std::move(defines));
        if (!stage)
            trouble = stage.error();
        else
            kernels.push_back({std::move(*stage), width, height, level});
        return !trouble;
    };
    const int width = shape.grid.width, height = shape.grid.height;
    bool ok = add("cascades/bodies.glsl",
                  pass.name == "cascades" ? std::vector<std::string>{} : std::vector<std::string>{"BOUNCE"}, width,
                  height, -1);
    const int last = static_cast<int>(shape.levels.size()) - 1;
    for (int n = last; n >= 0 && ok; --n) {
        const flat::CascadeLevel& l = shape.levels[static_cast<std::size_t>(n)];
        std::vector<std::string> defines;
        if (n == last) defines.push_back("LAST");
        if (shape.aimed) defines.push_back("AIMED");
        if (n == 0)
            defines.push_back("FIRST");
        else if (n % 2)
            defines.push_back("ODD");
        ok = add("cascades/level.glsl", std::move(defines), l.columns * l.across, l.rows * l.down, n);
    }
    if (!ok || !add("cascades/gather.glsl", {}, width, height, -1)) return tl::unexpected(*trouble);
    return [&f, kernels = std::move(kernels)] {
        for (const Kernel& k : kernels) {
            k.run();
            f.vitals.beat();
        }
    };
}

} // namespace

const GpuTechnique technique::cascades{prepare_cascades};

} // namespace mirolux::gpu

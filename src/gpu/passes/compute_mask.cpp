#include "gpu/passes/flat_lights.h"
#include "gpu/passes/surface_pass.h"
#include <cstring>

namespace mirolux::gpu {

namespace {

struct OrderedData {
    std::uint32_t light;
    float most, pad[2];
    glm::vec4 box; // pixels from the lower left
};
static_assert(sizeof(OrderedData) == 32);

/// Lights by their limit with the boxes that they cover.
std::vector<OrderedData> ordered_lights(const PassFrame& f) {
    const flat::Window w = flat::window_of(f.inputs.view);
    const glm::dvec2 scale = glm::dvec2(w.width, w.height) / (w.high - w.low);
    std::vector<OrderedData> out;
    for (const flat::LightGroup& g : flat::groups_of(f.inputs.draws.lights))
        for (const int i : g.lights) {
            glm::dvec2 low, high;
            flat::bounds_of(f.inputs.draws.lights[static_cast<std::size_t>(i)], *f.inputs.scene.flat, low, high);
            low = glm::floor((glm::max(low, w.low) - w.low) * scale);
            high = glm::ceil((glm::min(high, w.high) - w.low) * scale);
            out.push_back({static_cast<std::uint32_t>(i), static_cast<float>(g.most), {}, {low, high}});
        }
    return out;
}

Result<Commands> prepare_compute_lights(PassFrame& f) {
    const std::vector<OrderedData> order = ordered_lights(f);
    std::vector<std::uint8_t> bytes(16 + order.size() * sizeof(OrderedData));
    const auto count = static_cast<std::int32_t>(order.size());
    std::memcpy(bytes.data(), &count, 4);
    if (!order.empty()) std::memcpy(bytes.data() + 16, order.data(), order.size() * sizeof(OrderedData));
    f.upload("FlatOrderBuffer", bytes.data(), bytes.size());
    std::vector<std::string> defines = flat_defines(f);
    const bool lists = f.inputs.setup.flag("compute.lists");
    if (lists) defines.push_back("LISTS");
    auto stage = f.stage({{GL_COMPUTE_SHADER, "compute_mask/lights.glsl", ""}}, defines);
    if (!stage) return tl::unexpected(stage.error());
    return [stage = std::move(*stage), order, lists, mask = f.texture("computed mask"), width = f.width(),
            height = f.height()] {
        stage.use();
        if (lists) {
            glDispatchCompute(static_cast<GLuint>((width + 15) / 16), static_cast<GLuint>((height + 15) / 16), 1);
            return glMemoryBarrier(GL_TEXTURE_FETCH_BARRIER_BIT);
        }
        const float zero[4] = {};
        glClearTexImage(mask, 0, GL_RGBA, GL_FLOAT, zero);
        const GLint one = stage.uniform("one");
        for (std::size_t i = 0; i < order.size(); ++i) {
            const glm::vec2 size(order[i].box.z - order[i].box.x, order[i].box.w - order[i].box.y);
            glUniform1i(one, static_cast<GLint>(i));
            glDispatchCompute(static_cast<GLuint>((size.x + 15) / 16), static_cast<GLuint>((size.y + 15) / 16), 1);
            glMemoryBarrier(GL_SHADER_IMAGE_ACCESS_BARRIER_BIT);
        }
        glMemoryBarrier(GL_TEXTURE_FETCH_BARRIER_BIT);
    };
}

Result<Commands> prepare_compute_mask(PassFrame& f, const PlannedPass& pass) {
    return pass.name == "apply" ? prepare_flat_shown(f, "compute_mask/apply.glsl") : prepare_compute_lights(f);
}

} // namespace

const GpuTechnique technique::compute_mask{prepare_compute_mask};

} // namespace mirolux::gpu

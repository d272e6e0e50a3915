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
    const flat::Window w = flat::window_of(flat::stage_view(f.inputs.setup, f.inputs.view));
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

/// The order's buffer; the tiles' lists lie in the plan's.
std::vector<OrderedData> take_order(PassFrame& f) {
    std::vector<OrderedData> order = ordered_lights(f);
    std::vector<std::uint8_t> bytes(16 + order.size() * sizeof(OrderedData));
    const auto count = static_cast<std::int32_t>(order.size());
    std::memcpy(bytes.data(), &count, 4);
    if (!order.empty()) std::memcpy(bytes.data() + 16, order.data(), order.size() * sizeof(OrderedData));
    f.upload("FlatOrderBuffer", bytes.data(), bytes.size());
    if (f.plan.resource("tile lists")) f.buffers["FlatTileBuffer"] = {f.resources.buffer("tile lists"), 0, 0};
    return order;
}

int columns_of(const PassFrame& f) {
    return (f.plan.resource("computed mask")->width + 15) / 16;
}
int rows_of(const PassFrame& f) {
    return (f.plan.resource("computed mask")->height + 15) / 16;
}

Result<Commands> prepare_tile_lists(PassFrame& f) {
    const std::size_t lights = take_order(f).size();
    auto stage = f.stage({{GL_COMPUTE_SHADER, "compute_mask/lists.glsl", ""}}, {});
    if (!stage) return tl::unexpected(stage.error());
    const int tiles = columns_of(f) * rows_of(f), words = static_cast<int>((lights + 31) / 32);
    glProgramUniform1i(stage->name(), stage->uniform("columns"), columns_of(f));
    glProgramUniform1i(stage->name(), stage->uniform("tiles"), tiles);
    return [stage = std::move(*stage), groups = static_cast<GLuint>((tiles * words + 63) / 64)] {
        stage.use();
        glDispatchCompute(groups, 1, 1);
        glMemoryBarrier(GL_SHADER_STORAGE_BARRIER_BIT);
    };
}

Result<Commands> prepare_compute_lights(PassFrame& f) {
    const std::vector<OrderedData> order = take_order(f);
    std::vector<std::string> defines = flat_defines(f);
    const bool lists = f.plan.resource("tile lists") != nullptr;
    if (lists) defines.push_back("LISTS");
    auto stage = f.stage({{GL_COMPUTE_SHADER, "compute_mask/lights.glsl", ""}}, defines);
    if (!stage) return tl::unexpected(stage.error());
    return [stage = std::move(*stage), order, lists, mask = f.texture("computed mask"),
            columns = static_cast<GLuint>(columns_of(f)), rows = static_cast<GLuint>(rows_of(f))] {
        stage.use();
        if (lists) {
            glDispatchCompute(columns, rows, 1);
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
    if (pass.name == "tile lists") return prepare_tile_lists(f);
    return pass.name == "apply" ? prepare_flat_shown(f, "compute_mask/apply.glsl") : prepare_compute_lights(f);
}

} // namespace

const GpuTechnique technique::compute_mask{prepare_compute_mask};

} // namespace mirolux::gpu

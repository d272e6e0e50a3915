#include "core/cull/light_lists.h"
#include "gpu/passes/light_lists.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static GridData grid_data(const FrameInputs& in, const cull::GridSettings& s, const cull::GridShape& shape) {
    GridData g{};
    g.columns = shape.columns;
    g.rows = shape.rows;
    g.slices = shape.slices;
    g.tile = s.tile;
    g.capacity = shape.capacity;
    g.depthBounds = static_cast<int>(s.depthBounds);
    g.test = static_cast<int>(s.test);
    g.coneTest = s.coneTest;
    g.sliceNear = s.sliceNear;
    g.sliceFar = s.sliceFar;
    g.sliceExponent = s.sliceExponent;
    g.cameraNear = in.view.camera.near;
    g.firstBounded = in.draws.directional;
    g.lightCount = static_cast<int>(in.draws.lights.size());
    g.transparent = shape.transparent;
    const float ty = std::tan(0.5f * in.view.camera.fovY);
    g.extent = {ty * static_cast<float>(aspect_of(in.view)), ty};
    g.eyeStride = static_cast<std::int32_t>(shape.stride());
    return g;
}

/// Most lights that the kernel keeps in a group's shared memory; most words that a buffer texture reads.
static Result<void> check_limits(const PassFrame& f, const cull::GridShape& shape) {
    const std::size_t bounded = f.inputs.draws.lights.size() - static_cast<std::size_t>(f.inputs.draws.directional);
    if (bounded > 16384)
        return fail("there are " + std::to_string(bounded) + " lights in view; light lists take 16,384", "path.kind",
                    "Shorten ranges, or take the deferred path.");
    GLint most = 0;
    glGetIntegerv(GL_MAX_TEXTURE_BUFFER_SIZE, &most);
    const std::size_t entries = shape.stride() * static_cast<std::size_t>(f.plan.eyes());
    if (entries > static_cast<std::size_t>(most))
        return fail("light lists of " + std::to_string(entries) + " entries are more than this device reads (" +
                        std::to_string(most) + ")",
                    "culling.listCapacity", "Lower the list capacity, or take larger tiles or fewer slices.");
    return {};
}

static int lanes_of(const PassFrame& f) {
    const std::string& lanes = f.inputs.setup.choice("culling.lanes");
    return lanes != "auto" ? std::stoi(lanes) : f.softwareDevice ? 8 : 64;
}

static void upload_lights(PassFrame& f) {
    const DrawList& list = f.inputs.draws;
    const View eye = eye_views(f.inputs.view)[static_cast<std::size_t>(std::max(f.eye, 0))];
    std::vector<CullLightData> data;
    for (const cull::CullLight& l : cull::view_lights(list.lights, list.reach, list.directional, eye.camera))
        data.push_back({glm::vec4(l.bounds.center, l.bounds.radius), glm::vec4(l.position, l.reach),
                        glm::vec4(l.direction, l.cosOuter), glm::vec4(l.sinOuter, l.strength, 0, 0)});
    f.upload("CullLightBuffer", data.data(), data.size() * sizeof(CullLightData));
}

Result<Commands> fill_lists(PassFrame& f, const ListedGrid& g) {
    const cull::GridShape& shape = g.shape;
    if (auto ok = check_limits(f, shape); !ok) return tl::unexpected(ok.error());
    upload_lights(f);
    const std::uint32_t none[4] = {};
    f.upload(g.prefix + "OverflowBuffer", none, sizeof none);
    const int samples = f.plan.resource("depth")->spec.samples;
    auto stage = f.stage({{GL_COMPUTE_SHADER, "light_lists/cull.glsl", ""}},
                         {"LANES " + std::to_string(lanes_of(f)), "SAMPLES " + std::to_string(samples),
                          "GRID_BLOCK " + g.prefix + "GridBuffer", "LIST_BLOCK " + g.prefix + "ListBuffer",
                          "OVERFLOW_BLOCK " + g.prefix + "OverflowBuffer"});
    if (!stage) return tl::unexpected(stage.error());
    return [stage = std::move(*stage), overflow = f.buffers.at(g.prefix + "OverflowBuffer").buffer, shape] {
        const GLuint zero = 0;
        glClearNamedBufferData(overflow, GL_R32UI, GL_RED_INTEGER, GL_UNSIGNED_INT, &zero);
        stage.use();
        glDispatchCompute(static_cast<GLuint>(shape.columns), static_cast<GLuint>(shape.rows), 1);
        glMemoryBarrier(GL_SHADER_STORAGE_BARRIER_BIT | GL_TEXTURE_FETCH_BARRIER_BIT | GL_BUFFER_UPDATE_BARRIER_BIT);
    };
}

void provide_lists(PassFrame& f, const ListedGrid& g) {
    const GridData grid = grid_data(f.inputs, g.settings, g.shape);
    f.upload(g.prefix + "GridBuffer", &grid, sizeof grid);
    const auto bytes = static_cast<GLsizeiptr>(g.shape.stride() * 4);
    const BufferRange range{f.resources.buffer(g.resource), f.both_eyes() ? 0 : f.eye * bytes,
                            f.both_eyes() ? 2 * bytes : bytes};
    f.buffers[g.prefix + "ListBuffer"] = range;
    f.textures[g.sampler] = f.store.texels(g.sampler + " " + std::to_string(f.eye), GL_R32UI, range);
}

static ListedGrid surface_lists(const PassFrame& f) {
    return {"", "light lists", "listTexels", cull::grid_settings(f.inputs.setup),
            cull::grid_shape(f.inputs.setup, f.inputs.view, f.inputs.draws)};
}

static Result<Commands> prepare_light_lists(PassFrame& f, const PlannedPass&) {
    return fill_lists(f, surface_lists(f));
}

static void provide_light_lists(PassFrame& f) {
    provide_lists(f, surface_lists(f));
}

cull::LightGrid read_light_lists(const PassFrame& f, bool transparent) {
    const cull::GridShape shape = cull::grid_shape(f.inputs.setup, f.inputs.view, f.inputs.draws);
    cull::LightGrid grid;
    grid.columns = shape.columns;
    grid.rows = shape.rows;
    grid.slices = shape.slices;
    grid.tile = cull::grid_settings(f.inputs.setup).tile;
    const std::size_t cells = shape.cells();
    std::vector<std::uint32_t> raw(shape.half());
    glMemoryBarrier(GL_BUFFER_UPDATE_BARRIER_BIT);
    const BufferRange& lists = f.buffers.at("ListBuffer");
    const auto bytes = static_cast<GLsizeiptr>(raw.size() * 4);
    glGetNamedBufferSubData(lists.buffer, lists.offset + (transparent ? bytes : 0), bytes, raw.data());
    std::uint32_t overflow[4] = {};
    glGetNamedBufferSubData(f.buffers.at("OverflowBuffer").buffer, 0, sizeof overflow, overflow);
    grid.overflow = overflow[transparent ? 2 : 0];
    grid.overflowCells = static_cast<int>(overflow[transparent ? 3 : 1]);
    grid.offsets.assign(cells + 1, 0);
    for (std::size_t c = 0; c < cells; ++c) {
        grid.offsets[c + 1] = grid.offsets[c] + raw[c];
        const auto* list = raw.data() + cells + c * static_cast<std::size_t>(shape.capacity);
        grid.indices.insert(grid.indices.end(), list, list + raw[c]);
    }
    return grid;
}

const GpuTechnique technique::light_lists{prepare_light_lists, provide_light_lists};

} // namespace mirolux::gpu

#include "core/visibility/visibility.h"
#include "gpu/frame/command_list.h"
#include "gpu/passes/surface_pass.h"
#include "gpu/passes/visibility.h"

namespace mirolux::gpu {

namespace {

/// shaders/visibility/boxes.glsl
struct DrawBox {
    glm::vec3 low;
    std::uint32_t object;
    glm::vec3 high;
    std::uint32_t around;
};
/// shaders/visibility/test.glsl
struct LevelData {
    glm::ivec2 size;
    std::int32_t first, pixels;
};

/// Which objects the frame before showed; a hint of what hides in this one, so whatever it holds, nothing that shows is
/// left out.
struct SeenMemory {
    std::weak_ptr<const SceneAsset> asset;
    std::size_t objects = 0;
};

GLuint buffer_of(const PassFrame& f, const char* block) {
    return f.buffers.at(block).buffer;
}

std::vector<DrawBox> boxes_of(const PassFrame& f) {
    const FrameInputs& in = f.inputs;
    std::vector<DrawBox> out;
    const float pixel = 2 * std::tan(0.5f * in.view.camera.fovY) / static_cast<float>(in.view.height); // radians
    for (const auto* part : {&in.draws.opaque, &in.draws.blended})
        for (const Draw& d : *part) {
            const Box& b = in.scene.objects()[static_cast<std::size_t>(d.object)].bounds;
            // More than what single precision loses where a box is placed and projected, and than the rasteriser's
            // steps: a box must cover every pixel that its object covers.
            const float far = std::max(glm::length(b.low), glm::length(b.high));
            const float away = glm::length(b.center() - in.view.camera.eye) + 0.5f * glm::length(b.size());
            const glm::vec3 room = 1e-3f * b.size() + glm::vec3(1e-3f + 1e-5f * far + 0.05f * pixel * away);
            const glm::vec3 low = b.low - room, high = b.high + room;
            // A box that the near plane cuts, or all but cuts, is not asked: its object is drawn.
            const glm::vec3 eye = in.view.camera.eye, way = glm::normalize(in.view.camera.aim - eye);
            bool around = false, before = false;
            for (int k = 0; k < 8; ++k) {
                const glm::vec3 corner(k & 1 ? high.x : low.x, k & 2 ? high.y : low.y, k & 4 ? high.z : low.z);
                const float along = glm::dot(corner - eye, way);
                around = around || along < 2 * in.view.camera.near;
                before = before || along > in.view.camera.near;
            }
            around = around && before;
            out.push_back({low, static_cast<std::uint32_t>(d.object), high, around ? 1u : 0u});
        }
    return out;
}

/// The frame's commands with hidden objects left out take the place of all of them.
void provide_visibility(PassFrame& f) {
    if (!found_on_device(f.inputs.setup, f.inputs.view)) return;
    const std::vector<DrawBox> boxes = boxes_of(f);
    f.upload("DrawBoxBuffer", boxes.data(), boxes.size() * sizeof(DrawBox));
    const std::vector<PyramidLevel> levels = pyramid_levels(f.width(), f.height());
    std::vector<LevelData> data;
    for (const PyramidLevel& l : levels)
        data.push_back({{l.width, l.height}, static_cast<std::int32_t>(l.first), 4 << data.size()});
    f.upload("PyramidLevelBuffer", data.data(), data.size() * sizeof(LevelData));
    const std::size_t objects = f.inputs.scene.objects().size();
    std::any& kept = f.store.objects["objects seen before"];
    if (!kept.has_value()) kept = std::make_shared<SeenMemory>();
    auto memory = std::any_cast<std::shared_ptr<SeenMemory>>(kept);
    Buffer& seen = f.store.buffer("visible objects");
    if (memory->asset.lock() != f.inputs.scene.asset || memory->objects != objects) {
        const std::vector<std::uint32_t> all(objects, 1);
        seen.upload(all.data(), all.size() * 4);
        memory->asset = f.inputs.scene.asset;
        memory->objects = objects;
    }
    f.buffers["VisibleObjectBuffer"] = {seen.name(), 0, 0};
    const auto room = [&](const char* name, std::size_t bytes) {
        Buffer& b = f.store.buffer(name);
        b.reserve(bytes);
        return b.name();
    };
    const std::size_t commands = f.commandCount * sizeof(DrawCommand),
                      instances = f.instanceCount * sizeof(InstanceData);
    f.buffers["AllCommandBuffer"] = {f.all.commands, 0, 0};
    f.buffers["AllInstanceBuffer"] = {f.all.instances, 0, 0};
    f.shown = {room("shown commands", commands), room("shown instances", instances)};
    f.occluders = {room("occluder commands", commands), room("occluder instances", instances)};
    if (f.plan.resource(occluder_pyramid_resource))
        f.buffers["OccluderPyramidBuffer"] = {f.resources.buffer(occluder_pyramid_resource), 0, 0};
    const std::size_t answers = boxes.size() * 4;
    f.buffers["QueryAnswerBuffer"] = {room("answers of occlusion queries", answers), 0, 0};
}

/// Writes the commands of marked objects.
Result<Commands> leave_out(PassFrame& f, const DrawSource& to) {
    f.buffers["ShownCommandBuffer"] = {to.commands, 0, 0};
    f.buffers["ShownInstanceBuffer"] = {to.instances, 0, 0};
    auto stage = f.stage({{GL_COMPUTE_SHADER, "visibility/commands.glsl", ""}}, {});
    if (!stage) return tl::unexpected(stage.error());
    const auto count = static_cast<GLint>(f.commandCount);
    glProgramUniform1i(stage->name(), stage->uniform("count"), count);
    return [stage = std::move(*stage), count] {
        stage.use();
        glDispatchCompute(static_cast<GLuint>(count + 63) / 64, 1, 1);
        glMemoryBarrier(GL_COMMAND_BARRIER_BIT | GL_VERTEX_ATTRIB_ARRAY_BARRIER_BIT | GL_BUFFER_UPDATE_BARRIER_BIT);
    };
}

Result<Commands> prepare_occluders(PassFrame& f) {
    auto commands = leave_out(f, f.occluders);
    if (!commands) return tl::unexpected(commands.error());
    auto stage = f.mesh_stage("depth_prepass/fragment.glsl", {});
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state({}, occluder_depth_resource);
    if (!state) return tl::unexpected(state.error());
    state->colorWrite = false;
    return [&f, commands = std::move(*commands), stage = std::move(*stage), state = *state] {
        commands();
        state.apply();
        const float far = 0.0f;
        glClearNamedFramebufferfv(state.framebuffer, GL_DEPTH, 0, &far);
        f.draw(f.opaque, stage, state, f.occluders);
    };
}

Result<Commands> prepare_pyramid(PassFrame& f) {
    auto first = f.stage({{GL_COMPUTE_SHADER, "visibility/pyramid.glsl", ""}}, {"FIRST"});
    auto next = f.stage({{GL_COMPUTE_SHADER, "visibility/pyramid.glsl", ""}}, {});
    if (!first) return tl::unexpected(first.error());
    if (!next) return tl::unexpected(next.error());
    const std::vector<PyramidLevel> levels = pyramid_levels(f.width(), f.height());
    return [first = std::move(*first), next = std::move(*next), levels, width = f.width(), height = f.height()] {
        for (std::size_t l = 0; l < levels.size(); ++l) {
            const Stage& s = l == 0 ? first : next;
            s.use();
            glUniform2i(s.uniform("size"), levels[l].width, levels[l].height);
            glUniform1i(s.uniform("first"), static_cast<GLint>(levels[l].first));
            if (l == 0)
                glUniform2i(s.uniform("sizeBefore"), width, height);
            else {
                glUniform2i(s.uniform("sizeBefore"), levels[l - 1].width, levels[l - 1].height);
                glUniform1i(s.uniform("firstBefore"), static_cast<GLint>(levels[l - 1].first));
            }
            glDispatchCompute(static_cast<GLuint>(levels[l].width + 7) / 8,
                              static_cast<GLuint>(levels[l].height + 7) / 8, 1);
            glMemoryBarrier(GL_SHADER_STORAGE_BARRIER_BIT);
        }
    };
}

std::size_t tested(const PassFrame& f) {
    return f.inputs.draws.opaque.size() + f.inputs.draws.blended.size();
}

/// Marks what shows, by the pyramid or by answers, and leaves the rest out.
Result<Commands> prepare_tests(PassFrame& f, std::vector<std::string> defines) {
    auto stage = f.stage({{GL_COMPUTE_SHADER, "visibility/test.glsl", ""}}, std::move(defines));
    if (!stage) return tl::unexpected(stage.error());
    auto commands = leave_out(f, f.shown);
    if (!commands) return tl::unexpected(commands.error());
    const auto count = static_cast<GLint>(tested(f));
    glProgramUniform1i(stage->name(), stage->uniform("count"), count);
    if (const GLint levels = stage->uniform("levelCount"); levels >= 0)
        glProgramUniform1i(stage->name(), levels, static_cast<GLint>(pyramid_levels(f.width(), f.height()).size()));
    return [stage = std::move(*stage), commands = std::move(*commands), count] {
        stage.use();
        glDispatchCompute(static_cast<GLuint>(count + 63) / 64, 1, 1);
        glMemoryBarrier(GL_SHADER_STORAGE_BARRIER_BIT);
        commands();
    };
}

Result<Commands> prepare_queries(PassFrame& f) {
    auto boxes = f.stage({{GL_VERTEX_SHADER, "visibility/box_vertex.glsl", ""},
                          {GL_FRAGMENT_SHADER, "visibility/box_fragment.glsl", ""}},
                         {});
    if (!boxes) return tl::unexpected(boxes.error());
    auto tests = prepare_tests(f, {"QUERIES"});
    if (!tests) return tl::unexpected(tests.error());
    auto state = f.state({}, occluder_depth_resource);
    if (!state) return tl::unexpected(state.error());
    state->colorWrite = state->depthWrite = false;
    state->depthFunc = GL_GEQUAL;
    const std::size_t count = tested(f);
    auto queries = std::make_shared<std::vector<Query>>();
    for (std::size_t i = 0; i < count; ++i) {
        GLuint name = 0;
        glCreateQueries(GL_ANY_SAMPLES_PASSED, 1, &name);
        queries->emplace_back(name);
    }
    return [&f, boxes = std::move(*boxes), tests = std::move(*tests), state = *state, queries,
            answers = buffer_of(f, "QueryAnswerBuffer")] {
        state.apply();
        glEnable(GL_DEPTH_CLAMP); // a box that the near plane cuts stays whole
        glDisable(GL_CULL_FACE);
        boxes.use();
        glBindVertexArray(f.emptyVertexArray);
        const GLint box = boxes.uniform("box");
        for (std::size_t i = 0; i < queries->size(); ++i) {
            glUniform1i(box, static_cast<GLint>(i));
            glBeginQuery(GL_ANY_SAMPLES_PASSED, (*queries)[i].name());
            glDrawArrays(GL_TRIANGLES, 0, 36);
            glEndQuery(GL_ANY_SAMPLES_PASSED);
        }
        glDisable(GL_DEPTH_CLAMP);
        for (std::size_t i = 0; i < queries->size(); ++i)
            glGetQueryBufferObjectuiv((*queries)[i].name(), answers, GL_QUERY_RESULT, static_cast<GLintptr>(4 * i));
        glMemoryBarrier(GL_SHADER_STORAGE_BARRIER_BIT | GL_QUERY_BUFFER_BARRIER_BIT);
        tests();
    };
}

Result<Commands> prepare_visibility(PassFrame& f, const PlannedPass& pass) {
    if (pass.name == "occluders") return prepare_occluders(f);
    if (pass.name == "occluder pyramid") return prepare_pyramid(f);
    return pass.name == "occlusion queries" ? prepare_queries(f) : prepare_tests(f, {});
}

void tell_visibility(PassFrame& f) {
    const std::vector<bool> drawn = drawn_objects(f);
    f.told[told_visible] = {static_cast<double>(std::count(drawn.begin(), drawn.end(), true)),
                            static_cast<double>(tested(f))};
}

} // namespace

std::vector<bool> drawn_objects(PassFrame& f) {
    std::vector<bool> out(f.inputs.scene.objects().size(), false);
    std::vector<std::uint32_t> seen;
    if (const auto it = f.buffers.find("VisibleObjectBuffer"); it != f.buffers.end()) {
        seen.resize(out.size());
        glMemoryBarrier(GL_BUFFER_UPDATE_BARRIER_BIT);
        glFinish();
        glGetNamedBufferSubData(it->second.buffer, 0, static_cast<GLsizeiptr>(seen.size() * 4), seen.data());
    }
    for (const auto* part : {&f.inputs.draws.opaque, &f.inputs.draws.blended})
        for (const Draw& d : *part)
            if (const auto o = static_cast<std::size_t>(d.object); seen.empty() || seen[o] != 0) out[o] = true;
    return out;
}

Result<std::vector<std::uint32_t>> seen_pixels(PassFrame& f, ScratchPool& scratch) {
    auto target = scratch.get("seen depth", f.width(), f.height(), {}, GL_DEPTH_COMPONENT32F);
    if (!target) return tl::unexpected(target.error());
    std::vector<std::uint32_t> pixels(f.inputs.scene.objects().size() + 1, 0);
    f.upload("SeenPixelBuffer", pixels.data(), pixels.size() * 4);
    auto lay = f.mesh_stage("depth_prepass/fragment.glsl", {});
    if (!lay) return tl::unexpected(lay.error());
    auto count = f.mesh_stage("visibility/seen.glsl", {}, {{"seenDepth", (*target)->depth.name()}});
    if (!count) return tl::unexpected(count.error());
    PassState state;
    state.framebuffer = (*target)->framebuffer.name();
    state.width = f.width();
    state.height = f.height();
    state.colorWrite = false;
    state.apply();
    const float far = 0.0f;
    glClearNamedFramebufferfv(state.framebuffer, GL_DEPTH, 0, &far);
    f.draw(f.opaque, *lay, state, f.all);
    auto nothing = scratch.get("seen surfaces", f.width(), f.height(), {GL_R8}, GL_NONE);
    if (!nothing) return tl::unexpected(nothing.error());
    state.framebuffer = (*nothing)->framebuffer.name();
    state.depthTest = state.depthWrite = false;
    f.draw(f.opaque, *count, state, f.all);
    f.draw(f.blended, *count, state, f.all);
    glMemoryBarrier(GL_BUFFER_UPDATE_BARRIER_BIT);
    glFinish();
    pixels.pop_back();
    glGetNamedBufferSubData(buffer_of(f, "SeenPixelBuffer"), 0, static_cast<GLsizeiptr>(pixels.size() * 4),
                            pixels.data());
    return pixels;
}

const GpuTechnique technique::visibility{prepare_visibility, provide_visibility, nullptr, tell_visibility};

} // namespace mirolux::gpu

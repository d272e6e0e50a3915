#include "core/light/tone.h"
#include "gpu/frame/session.h"
#include "gpu/passes/state.h"
#include <cstring>

// What instrumented variants of the shaders tell, after all timing: work of each pass, what each light costs and gives,
// and the surfaces that cover a pixel.
namespace mirolux::gpu {

Result<void> Session::count_work(const FramePlan& plan, Frame& frame, FrameRecord& record) {
    const auto instrument = [&](Instrument kind, GLuint buffer) {
        for (PassContext& eye : frame.eyes)
            eye.instrument = kind, eye.counterBuffer = buffer;
        if (frame.both) frame.both->instrument = kind, frame.both->counterBuffer = buffer;
    };
    for (std::size_t i = 0; i < plan.passes.size(); ++i) {
        std::vector<std::uint32_t> zeros(256, 0);
        counters_.upload(zeros.data(), zeros.size() * 4);
        instrument(Instrument::count, counters_.name());
        if (auto ok = prepare_pass(plan.passes[i], frame); !ok) return ok;
        glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 7, counters_.name());
        run_pass(plan.passes[i], frame);
        glMemoryBarrier(GL_BUFFER_UPDATE_BARRIER_BIT);
        glFinish();
        glGetNamedBufferSubData(counters_.name(), 0, static_cast<GLsizeiptr>(zeros.size() * 4), zeros.data());
        Work& work = record.passes[i].work;
        work.fragments = work.lightEvaluations = work.lightsReached = work.textureReads = 0;
        for (std::size_t k = 0; k < zeros.size(); k += 4) {
            work.fragments += zeros[k];
            work.lightEvaluations += zeros[k + 1];
            work.lightsReached += zeros[k + 2];
            work.textureReads += zeros[k + 3];
        }
        if (plan.passes[i].kind == PassKind::culling)
            for (const PassContext& eye : frame.eyes) {
                std::uint32_t counted[4] = {};
                glGetNamedBufferSubData(eye.overflowBuffer, 16, sizeof counted, counted);
                work.sideTests += counted[0];
                work.cells += counted[1];
                work.cellTests += counted[2];
                work.listEntries += counted[3];
            }
        record.passes[i].counted = true;
    }
    instrument(Instrument::none, 0);
    bind_eye(frame.eyes.front());
    return {};
}

Result<void> Session::fill_ledger(const FramePlan& plan, PassContext& context, FrameRecord& record) {
    std::vector<LedgerData> entries(context.list.lights.size() + 1, LedgerData{});
    ledger_.upload(entries.data(), entries.size() * sizeof(LedgerData));
    context.counterBuffer = ledger_.name();
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 7, ledger_.name());
    Targets& t = context.targets;
    const GLuint copy = TargetPool::depth_copy(t), shownThrough = TargetPool::transmittance(t);
    glCopyImageSubData(t.depth.name(), GL_TEXTURE_2D, 0, 0, 0, 0, copy, GL_TEXTURE_2D, 0, 0, 0, 0, t.width, t.height,
                       1);
    const float one[4] = {1, 1, 1, 1};
    glClearNamedFramebufferfv(shownThrough, GL_COLOR, 0, one);
    context.instrument = Instrument::ledger;
    const auto bind = [&] {
        glBindTextureUnit(7, t.transmittance.name());
        glBindTextureUnit(8, copy);
    };
    // Panes, nearest first: each takes its share of what those before it let through, then dims what lies behind.
    Variant variant = blended_variant(context);
    variant.push_back("LEDGER_BLENDED");
    if (!context.blended.empty()) {
        if (auto ok = prepare_surface(context, variant); !ok) return ok;
        begin_scene(context);
        glBindFramebuffer(GL_FRAMEBUFFER, shownThrough);
        glDepthMask(GL_FALSE);
        glEnable(GL_BLEND);
        glBlendFunc(GL_ZERO, GL_SRC_COLOR);
        bind();
        for (auto b = context.blended.rbegin(); b != context.blended.rend(); ++b)
            for (std::size_t i = b->count; i-- > 0;) {
                glTextureBarrier();
                draw_batches(context, {{b->material, b->mirrored, b->first + i, 1}},
                             [&](bool masked) { return *surface_program(context, variant, masked); });
            }
        glTextureBarrier();
        glDisable(GL_BLEND);
        glDepthMask(GL_TRUE);
        if (alive_) alive_();
    }
    for (const PlannedPass& planned : plan.passes) {
        if (planned.kind == PassKind::transparent || planned.kind == PassKind::peeled ||
            planned.kind == PassKind::finish || planned.kind == PassKind::sky || planned.kind == PassKind::culling)
            continue;
        const Pass& pass = pass_of(planned.kind);
        if (auto ok = pass.prepare(context); !ok) return ok;
        bind();
        pass.run(context);
        if (alive_) alive_();
    }
    context.instrument = Instrument::none;
    context.counterBuffer = 0;
    glMemoryBarrier(GL_BUFFER_UPDATE_BARRIER_BIT);
    glFinish();
    glGetNamedBufferSubData(ledger_.name(), 0, static_cast<GLsizeiptr>(entries.size() * sizeof(LedgerData)),
                            entries.data());
    const double unit = 1.0 / (1048576.0 * tone::exposure_scale(context.setup.number(
                                               "exposure.ev100"))); // cd/m2 in a step (shaders/include/ledger.glsl)
    for (std::size_t i = 0; i < context.list.lights.size(); ++i)
        record.ledger.push_back({context.list.lights[i].id, entries[i].evaluations,
                                 (entries[i].low + 4294967296.0 * entries[i].high) * unit});
    return {};
}

Result<void> Session::read_probe(glm::ivec2 pixel, PassContext& context, FrameRecord& record) {
    const Targets& t = context.targets;
    if (pixel.x < 0 || pixel.y < 0 || pixel.x >= t.width || pixel.y >= t.height)
        return fail("there is no such pixel", std::to_string(pixel.x) + ", " + std::to_string(pixel.y),
                    "The picture is " + std::to_string(t.width) + "x" + std::to_string(t.height) + ".");
    if (auto ok = prepare_surface(context, {"PASS_PROBE"}); !ok) return ok;
    PixelProbe probe;
    probe.pixel = pixel;
    const int y = t.height - 1 - pixel.y;
    float radiance[4] = {};
    glBindFramebuffer(GL_READ_FRAMEBUFFER, t.scene.name());
    glReadPixels(pixel.x, y, 1, 1, GL_RGBA, GL_FLOAT, radiance);
    probe.radiance = {radiance[0], radiance[1], radiance[2]};

    constexpr std::size_t most = 512;
    std::vector<std::uint8_t> bytes(16 + most * sizeof(ProbeData), 0);
    // The buffer's length is the array's limit, so it is made to measure.
    GLuint name = 0;
    glCreateBuffers(1, &name);
    const Owned<delete_buffer> buffer(name);
    glNamedBufferStorage(name, static_cast<GLsizeiptr>(bytes.size()), bytes.data(), 0);
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 7, name);
    begin_scene(context);
    glDisable(GL_DEPTH_TEST);
    glDepthMask(GL_FALSE);
    glColorMask(GL_FALSE, GL_FALSE, GL_FALSE, GL_FALSE);
    glEnable(GL_SCISSOR_TEST);
    glScissor(pixel.x, y, 1, 1);
    const auto program = [&](bool masked) { return *surface_program(context, {"PASS_PROBE"}, masked); };
    draw_batches(context, context.opaque, program);
    draw_batches(context, context.blended, program);
    glDisable(GL_SCISSOR_TEST);
    glColorMask(GL_TRUE, GL_TRUE, GL_TRUE, GL_TRUE);
    glEnable(GL_DEPTH_TEST);
    glDepthMask(GL_TRUE);
    glMemoryBarrier(GL_BUFFER_UPDATE_BARRIER_BIT);
    glFinish();
    glGetNamedBufferSubData(name, 0, static_cast<GLsizeiptr>(bytes.size()), bytes.data());
    std::uint32_t count = 0;
    std::memcpy(&count, bytes.data(), 4);
    for (std::size_t i = 0; i < std::min<std::size_t>(count, most); ++i) {
        ProbeData d;
        std::memcpy(&d, bytes.data() + 16 + i * sizeof d, sizeof d);
        SurfaceSample s;
        s.position = glm::vec3(d.position);
        s.depth = d.position.w;
        s.normal = glm::vec3(d.normal);
        s.alpha = d.normal.w;
        s.baseColor = glm::vec3(d.baseColor);
        s.metallic = d.baseColor.w;
        s.emissive = glm::vec3(d.emissive);
        s.roughness = d.emissive.w;
        s.ambient = glm::vec3(d.ambient);
        s.unlit = d.ambient.w > 0.5f;
        s.draw = d.draw;
        s.triangle = d.triangle;
        probe.samples.push_back(s);
    }
    record.probe = std::move(probe);
    return {};
}

} // namespace mirolux::gpu

#include "gpu/frame/session.h"
#include "core/cull/grid_settings.h"
#include "gpu/frame/clock.h"

namespace mirolux::gpu {

Result<std::unique_ptr<Session>> Session::create(bool software, const std::string& shaderFolder) {
    auto context = Context::create(software);
    if (!context) return tl::unexpected(context.error());
    return std::unique_ptr<Session>(new Session(std::move(*context), ShaderLibrary(shaderFolder)));
}

Session::Session(std::unique_ptr<Context> context, ShaderLibrary library)
    : context_(std::move(context)), programs_(std::move(library)) {
    glClipControl(GL_LOWER_LEFT, GL_ZERO_TO_ONE);
    glPixelStorei(GL_PACK_ALIGNMENT, 1);
    glPixelStorei(GL_UNPACK_ALIGNMENT, 1);
    GLuint vao = 0;
    glCreateVertexArrays(1, &vao);
    empty_ = VertexArray(vao);
}

Result<DeviceInfo> Session::device() {
    context_->make_current();
    if (!device_) {
        DeviceInfo d;
        auto text = [](GLenum name) { return std::string(reinterpret_cast<const char*>(glGetString(name))); };
        d.renderer = text(GL_RENDERER);
        d.vendor = text(GL_VENDOR);
        d.version = text(GL_VERSION);
        d.build = MIROLUX_VERSION " " MIROLUX_BUILD_TYPE;
        d.clock = test_clock(programs_.library());
        device_ = d;
    }
    return *device_;
}

Result<void> Session::check(const char* step) {
    const GLenum error = glGetError();
    const std::string message = context_->take_message();
    if (error == GL_OUT_OF_MEMORY)
        return fail("the device ran out of memory", step, "Choose a smaller picture or a smaller scene.");
    if (error != GL_NO_ERROR)
        return fail("the device refused a command: " + message, step,
                    "This is a fault of Mirolux or the driver; the setup is kept.");
    return {};
}

int Session::cull_lanes(const Setup& setup) {
    const std::string& lanes = setup.choice("culling.lanes");
    if (lanes != "auto") return std::stoi(lanes);
    const std::string renderer(reinterpret_cast<const char*>(glGetString(GL_RENDERER)));
    return renderer.find("llvmpipe") != std::string::npos || renderer.find("softpipe") != std::string::npos ? 8 : 64;
}

cull::LightGrid Session::read_grid(const PassContext& context, int tile, int part) const {
    cull::LightGrid grid;
    grid.columns = context.cells.x;
    grid.rows = context.cells.y;
    grid.slices = context.cells.z;
    grid.tile = tile;
    const std::size_t cells = std::size_t(grid.columns) * grid.rows * grid.slices;
    std::vector<std::uint32_t> raw(cells * (1 + static_cast<std::size_t>(listCapacity_)));
    glMemoryBarrier(GL_BUFFER_UPDATE_BARRIER_BIT);
    const auto bytes = static_cast<GLsizeiptr>(raw.size() * 4);
    glGetNamedBufferSubData(lists_.name(), part * bytes, bytes, raw.data());
    std::uint32_t overflow[2] = {};
    glGetNamedBufferSubData(context.overflowBuffer, part * 8, 8, overflow);
    grid.overflow = overflow[0];
    grid.overflowCells = static_cast<int>(overflow[1]);
    grid.offsets.assign(cells + 1, 0);
    for (std::size_t c = 0; c < cells; ++c) {
        grid.offsets[c + 1] = grid.offsets[c] + raw[c];
        const auto* list = raw.data() + cells + c * static_cast<std::size_t>(listCapacity_);
        grid.indices.insert(grid.indices.end(), list, list + raw[c]);
    }
    return grid;
}

Session::Frame Session::make_frame(const Setup& setup, const View& view, const DrawList& list, const PathShape& path) {
    const GLenum format = setup.choice("path.targetFormat") == "rgba16f" ? GL_RGBA16F : GL_RGBA32F;
    const bool stereo = view.stereo != Stereo::off, full = setup.choice("gbuffer.packing") == "full";
    if (path.volumes && !proxies_) proxies_.emplace();
    const auto context_of = [&](Targets& targets) {
        PassContext c{*scene_, setup, list, targets, programs_, empty_.name()};
        c.path = path;
        c.prepass = path.prepass;
        c.alive = alive_;
        c.cullLanes = cull_lanes(setup);
        return c;
    };
    Frame frame;
    std::vector<Targets*> targets;
    if (stereo) {
        EyeTargets& t = pool_.eye_targets(view.width, view.height, format, path.stencil);
        if (path.deferred) TargetPool::gbuffer(t, full);
        targets = {&t.eye[0], &t.eye[1]};
        if (view.stereo == Stereo::onePass) {
            frame.both.emplace(context_of(t.both));
            frame.both->bothEyes = true;
            if (path.deferred) frame.both->gbuffer = &t.both.gbuffer;
        }
    } else {
        targets = {&pool_.targets(view.width, view.height, format, path.stencil)};
        if (path.deferred) TargetPool::gbuffer(*targets.front(), full);
    }
    for (Targets* t : targets) {
        PassContext c = context_of(*t);
        c.eye = static_cast<int>(frame.eyes.size());
        if (path.deferred) c.gbuffer = &t->gbuffer;
        if (path.volumes) {
            c.proxies = &*proxies_;
            c.depthCopy = TargetPool::depth_copy(*t);
        }
        if (path.peeled) c.peel = &TargetPool::peel(*t);
        frame.eyes.push_back(std::move(c));
    }
    return frame;
}

void Session::run_pass(const PlannedPass& planned, Frame& frame) {
    const DebugGroup group(planned.name);
    const Pass& pass = pass_of(planned.kind);
    if (planned.bothEyes) {
        bind_eye(*frame.both);
        pass.run(*frame.both);
    } else
        for (PassContext& eye : frame.eyes) {
            if (frame.eyes.size() > 1) bind_eye(eye);
            pass.run(eye);
        }
    if (alive_) alive_();
}

Result<void> Session::prepare_pass(const PlannedPass& planned, Frame& frame) {
    return pass_of(planned.kind)
        .prepare(planned.bothEyes ? *frame.both : frame.eyes.front()); // both eyes use the same programs
}

Result<FrameRecord> Session::render(const Scene& scene, const Setup& setup, const View& view,
                                    const RenderOptions& options) {
    const double start = now_ms();
    if (view.width < 1 || view.height < 1 || view.width > 16384 || view.height > 16384)
        return fail("the picture size must lie between 1x1 and 16384x16384",
                    std::to_string(view.width) + "x" + std::to_string(view.height));
    context_->make_current();
    if (view.stereo == Stereo::onePass && !epoxy_has_gl_extension("GL_ARB_shader_viewport_layer_array"))
        return fail("this device cannot choose a layer in the vertex shader, which drawing both eyes in one pass needs",
                    "GL_ARB_shader_viewport_layer_array", "Let the target draw its eyes in two passes.");
    (void)check("before the frame");
    if (programs_.refresh()) held_.reset();
    if (!scene_ || !scene_->holds(scene.asset)) {
        scene_.reset();
        scene_ = std::make_unique<SceneResources>(scene.asset);
        if (auto ok = check("loading the scene onto the device"); !ok) {
            scene_.reset();
            return tl::unexpected(ok.error());
        }
    }
    FrameRecord record;
    record.clock = options.gpuClock ? "gpu" : "fenced";
    const double prepareStart = now_ms();
    const DrawList list = build_draw_list(scene, setup, view);
    const FramePlan plan = plan_frame(scene, setup, view, list);
    record.cpuPrepareMs = now_ms() - prepareStart;
    record.width = view.width;
    record.height = view.height;
    record.droppedLights = plan.droppedLights;
    record.droppedObjects = plan.droppedObjects;
    record.lightsInScene = plan.lightsInScene;
    record.lightsInView = plan.lightsInView;
    record.lightsFaded = plan.lightsFaded;
    const PathShape path = path_shape(setup);
    Frame made = make_frame(setup, view, list, path);
    PassContext& context = made.eyes.front(); // what is looked at beside the picture is of the left eye
    if (path.lists) {
        if (auto ok = upload_grid(setup, view, list, made); !ok) return tl::unexpected(ok.error());
    }
    upload(scene, setup, view, list, made, record);
    if (auto ok = check("preparing the frame"); !ok) return tl::unexpected(ok.error());
    const bool held = held_ && held_->scene.asset == scene.asset && held_->scene.lights == scene.lights &&
                      held_->scene.motions == scene.motions && held_->scene.sky == scene.sky && held_->setup == setup &&
                      held_->view == view;
    if (!held || options.fencedSamples > 0 || options.wholeSamples > 0) {
        held_.reset();
        if (auto ok = run_frame(plan, made, record, options); !ok) return tl::unexpected(ok.error());
        held_ = Held{scene, setup, view};
    } else
        for (const PlannedPass& p : plan.passes)
            record.passes.push_back({p.name, p.family, {}, p.expected, false});
    if (options.count)
        if (auto ok = count_work(plan, made, record); !ok) return tl::unexpected(ok.error());
    if (path.lists && options.lightLists) {
        record.lightGrid = read_grid(context, std::stoi(setup.choice("culling.tile")), 0);
        if (!list.blended.empty())
            record.transparentGrid = read_grid(context, std::stoi(setup.choice("culling.tile")), 1);
    }
    if (options.probe)
        if (auto ok = read_probe(*options.probe, context, record); !ok) return tl::unexpected(ok.error());
    if (auto ok = read_outputs(view, made, options, record); !ok) return tl::unexpected(ok.error());
    if (options.ledger) { // last: it draws over the targets
        held_.reset();
        if (auto ok = fill_ledger(plan, context, record); !ok) return tl::unexpected(ok.error());
    }
    if (auto ok = check("rendering"); !ok) return tl::unexpected(ok.error());
    record.answerMs = now_ms() - start;
    return record;
}

void Session::inject_work(GLuint program, int rounds) {
    TargetPool::View& target = pool_.view(256, 256);
    glBindFramebuffer(GL_FRAMEBUFFER, target.framebuffer.name());
    glViewport(0, 0, 256, 256);
    glDisable(GL_DEPTH_TEST);
    glDisable(GL_BLEND);
    glDisable(GL_STENCIL_TEST);
    glProgramUniform1i(program, 0, rounds);
    glUseProgram(program);
    glBindVertexArray(empty_.name());
    glDrawArrays(GL_TRIANGLES, 0, 3);
}

Result<void> Session::run_frame(const FramePlan& plan, Frame& frame, FrameRecord& record,
                                const RenderOptions& options) {
    for (const PlannedPass& p : plan.passes) {
        if (auto ok = prepare_pass(p, frame); !ok) return ok;
        record.passes.push_back({p.name, p.family, {}, p.expected, false});
        if (alive_) alive_();
    }
    GLuint injected = 0;
    if (options.injectedWork > 0) {
        auto program = programs_.get("screen_vertex.glsl", "known_work_fragment.glsl", {});
        if (!program) return tl::unexpected(program.error());
        injected = *program;
        record.passes.push_back({injected_pass, "injected", {}, {}, false});
    }
    const std::size_t count = record.passes.size();
    auto run = [&](std::size_t i) {
        if (i >= plan.passes.size())
            inject_work(injected, options.injectedWork);
        else
            run_pass(plan.passes[i], frame);
    };
    const std::uint64_t instrumentedBefore = programs_.instrumented_uses();
    std::vector<Query> queries;
    if (options.gpuClock || options.wholeQueries)
        for (std::size_t i = 0; i < count; ++i) {
            GLuint name = 0;
            glCreateQueries(GL_TIME_ELAPSED, 1, &name);
            queries.emplace_back(name);
        }
    for (int sample = 0; sample < options.fencedSamples; ++sample) {
        if (!options.gpuClock) {
            for (std::size_t i = 0; i < count; ++i)
                record.passes[i].ms.push_back(fenced_ms([&] { run(i); }));
            continue;
        }
        for (std::size_t i = 0; i < count; ++i) {
            glBeginQuery(GL_TIME_ELAPSED, queries[i].name());
            run(i);
            glEndQuery(GL_TIME_ELAPSED);
        }
        for (std::size_t i = 0; i < count; ++i) {
            GLuint64 ns = 0;
            glGetQueryObjectui64v(queries[i].name(), GL_QUERY_RESULT, &ns);
            record.passes[i].ms.push_back(static_cast<double>(ns) * 1e-6);
        }
    }
    for (int sample = 0; sample < options.wholeSamples; ++sample)
        record.wholeMs.push_back(fenced_ms([&] {
            for (std::size_t i = 0; i < count; ++i) {
                if (options.wholeQueries) glBeginQuery(GL_TIME_ELAPSED, queries[i].name());
                run(i);
                if (options.wholeQueries) glEndQuery(GL_TIME_ELAPSED);
            }
        }));
    record.instrumented = programs_.instrumented_uses() != instrumentedBefore;
    // Float layers and the picture need a frame even when none was timed.
    if (options.fencedSamples <= 0 && options.wholeSamples <= 0)
        for (std::size_t i = 0; i < plan.passes.size(); ++i)
            run(i);
    bind_eye(frame.eyes.front());
    return {};
}

} // namespace mirolux::gpu

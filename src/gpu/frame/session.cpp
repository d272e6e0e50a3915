#include "gpu/frame/session.h"
#include "core/bake/baked_light.h"
#include "core/finish/edges.h"
#include "core/finish/render_scale.h"
#include "core/io/file.h"
#include "core/motion/scene_at.h"
#include "gpu/frame/clock.h"
#include "gpu/passes/light_lists.h"
#include "gpu/passes/visibility.h"
#include <set>

namespace mirolux::gpu {

Result<std::unique_ptr<Session>> Session::create(const SessionOptions& options) {
    auto context = Context::create(options.software);
    if (!context) return tl::unexpected(context.error());
    return std::unique_ptr<Session>(new Session(std::move(*context), ShaderLibrary(options.shaderFolder), options));
}

Session::Session(std::unique_ptr<Context> context, ShaderLibrary library, const SessionOptions& options)
    : context_(std::move(context)), programs_(std::move(library)),
      memoryLimit_(options.memoryLimit ? options.memoryLimit : machine_memory() / 4) {
    glClipControl(GL_LOWER_LEFT, GL_ZERO_TO_ONE);
    glPixelStorei(GL_PACK_ALIGNMENT, 1);
    glPixelStorei(GL_UNPACK_ALIGNMENT, 1);
    GLuint vao = 0;
    glCreateVertexArrays(1, &vao);
    empty_ = VertexArray(vao);
    const std::string renderer(reinterpret_cast<const char*>(glGetString(GL_RENDERER)));
    software_ = renderer.find("llvmpipe") != std::string::npos || renderer.find("softpipe") != std::string::npos;
    programs_.on_build([this](const std::string& shader) { vitals_->enter("compiling " + shader); });
}

void Session::add(const Technique& technique, const GpuTechnique& side) {
    more_.push_back(&technique);
    add_gpu_technique(technique, side);
    held_.reset();
}

Result<DeviceInfo> Session::device() {
    context_->make_current();
    if (!device_) {
        vitals_->enter("testing the clock");
        DeviceInfo d;
        auto text = [](GLenum name) { return std::string(reinterpret_cast<const char*>(glGetString(name))); };
        d.renderer = text(GL_RENDERER);
        d.vendor = text(GL_VENDOR);
        d.version = text(GL_VERSION);
        d.build = MIROLUX_VERSION " " MIROLUX_BUILD_TYPE;
        d.clock = test_clock(programs_);
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

/// Refuses a picture whose targets would not fit, with a size of the same shape that does.
Result<void> Session::check_size(const FramePlan& plan) const {
    if (plan.bytesHeld <= memoryLimit_) return {};
    const double scale = std::sqrt(0.95 * double(memoryLimit_) / double(plan.bytesHeld));
    const auto mebibytes = [](std::size_t bytes) { return std::to_string(bytes >> 20) + " MiB"; };
    return fail("the targets of this frame would take " + mebibytes(plan.bytesHeld) + ", more than the limit of " +
                    mebibytes(memoryLimit_),
                std::to_string(plan.view.width) + "x" + std::to_string(plan.view.height),
                "A picture of " + std::to_string(std::max(1, int(plan.view.width * scale))) + "x" +
                    std::to_string(std::max(1, int(plan.view.height * scale))) +
                    " fits; --memory-limit raises the limit.");
}

std::vector<PassFrame*> Session::Frame::all() const {
    std::vector<PassFrame*> out;
    for (const auto& eye : eyes)
        out.push_back(eye.get());
    if (both) out.push_back(both.get());
    return out;
}

Result<void> Session::take_scene(const Scene& scene) {
    if (programs_.refresh()) held_.reset();
    if (scene_ && scene_->holds(scene.asset)) return {};
    vitals_->enter("loading the scene onto the device");
    held_.reset();
    std::unique_ptr<SceneResources> before = std::move(scene_); // of another file it ends before the new one begins
    if (before && file_asset(before->asset()) != file_asset(*scene.asset)) before.reset();
    scene_ = std::make_unique<SceneResources>(scene.asset, before.get());
    if (auto ok = check("loading the scene onto the device"); !ok) {
        scene_.reset();
        return ok;
    }
    return {};
}

Result<std::unique_ptr<Session::Frame>> Session::make_frame(const FrameInputs& inputs, double gatherMs) {
    auto frame = std::make_unique<Frame>(Frame{inputs, plan_frame(inputs, more_), {}, nullptr, {}, nullptr});
    if (auto ok = check_size(frame->plan); !ok) return tl::unexpected(ok.error());
    auto resources = pool_.set_of(frame->plan);
    if (!resources) return tl::unexpected(resources.error());
    frame->resources = *resources;
    if (inputs.time.index == 0)
        frame->resources->clear_history();
    else {
        if (sequence_ != frame->resources) // lists that grew since the frame before are in another set
            (void)pool_.carry_history(sequence_, frame->resources);
        frame->resources->turn_history();
    }
    sequence_ = frame->resources;
    frame->generated = generated_files(frame->plan);
    const auto pass_frame = [&](int eye) {
        auto made =
            std::unique_ptr<PassFrame>(new PassFrame{frame->inputs, frame->plan, *scene_, programs_, frame->generated,
                                                     **resources, store_, *vitals_, empty_.name(), eye, software_});
        made->gatherMs = gatherMs;
        return made;
    };
    for (int eye = 0; eye < frame->plan.eyes(); ++eye)
        frame->eyes.push_back(pass_frame(eye));
    if (inputs.view.stereo == Stereo::onePass) frame->both = pass_frame(-1);
    upload(*frame);
    if (auto ok = check("preparing the frame"); !ok) return tl::unexpected(ok.error());
    return frame;
}

Result<Session::Prepared> Session::prepare_pass(const PlannedPass& pass, Frame& frame) {
    Prepared out;
    const GpuTechnique& side = gpu_technique(*pass.technique);
    std::vector<PassFrame*> frames;
    if (pass.bothEyes)
        frames = {frame.both.get()};
    else if (pass.forBothEyes)
        frames = {frame.eyes.front().get()};
    else
        for (const auto& eye : frame.eyes)
            frames.push_back(eye.get());
    for (PassFrame* f : frames) {
        auto commands = side.prepare(*f, pass);
        if (!commands) return tl::unexpected(commands.error());
        out.push_back(std::move(*commands));
    }
    return out;
}

Result<std::vector<Session::Prepared>> Session::prepare_all(Frame& frame) {
    std::vector<Prepared> out;
    for (const PlannedPass& pass : frame.plan.passes) {
        auto prepared = prepare_pass(pass, frame);
        if (!prepared) return tl::unexpected(prepared.error());
        out.push_back(std::move(*prepared));
    }
    std::vector<std::string> names;
    for (const PlannedPass& p : frame.plan.passes)
        names.push_back(p.name);
    names.push_back(injected_pass);
    vitals_->enter("rendering " + std::to_string(frame.plan.view.width) + "x" + std::to_string(frame.plan.view.height) +
                       " by path " + frame.plan.setup.choice("path.kind"),
                   names);
    return out;
}

void Session::run_pass(const Prepared& prepared) {
    for (const Commands& commands : prepared)
        commands();
}

static void fill_head(const FramePlan& plan, FrameRecord& record) {
    const glm::ivec2 shown = shown_size(plan.view);
    record.width = shown.x;
    record.height = shown.y;
    record.droppedLights = plan.droppedLights;
    record.droppedObjects = plan.droppedObjects;
    record.lightsInScene = plan.lightsInScene;
    record.lightsInView = plan.lightsInView;
    record.lightsFaded = plan.lightsFaded;
}

Result<FrameTime> Session::settle(const Scene& asked, const Scene& scene, const Setup& setup, const View& view,
                                  const DrawList& list, const RenderOptions& options) {
    const FramePlan plan = plan_frame(FrameInputs{scene, setup, view, list, {0, view.seconds, {}}}, more_);
    const auto time_of = [&](std::uint64_t index, double seconds) {
        FrameTime out{index, seconds};
        if (plan.jitterFrames > 0) out.jitter = jitter_of(index, plan.jitterFrames);
        if (before_ && !options.adapted) out.elapsed = std::max(0.0, seconds - before_->view.seconds);
        return out;
    };
    if (!plan.has_history()) { // only the last frame of a sequence is seen
        before_.reset();
        return time_of(static_cast<std::uint64_t>(std::max(1, options.frames)) - 1, view.seconds);
    }
    if (auto ok = check_size(plan); !ok) return tl::unexpected(ok.error());
    auto resources = pool_.set_of(plan);
    if (!resources) return tl::unexpected(resources.error());
    // A cut: another scene, another camera. Another size or shape of targets ends what they held as well.
    const bool cut = options.frames > 0 || !held_ || !held_->history || held_->scene.asset != scene.asset ||
                     held_->view.camera.name != view.camera.name;
    const bool fresh = cut || held_->view.width != view.width || held_->view.height != view.height ||
                       held_->view.shownWidth != view.shownWidth || held_->view.shownHeight != view.shownHeight ||
                       held_->view.stereo != view.stereo || !pool_.carry_history(held_->resources, *resources);
    const FrameTime next = time_of(index_, view.seconds);
    if (!fresh) {
        sequence_ = *resources;
        return next;
    }
    index_ = 0;
    before_.reset();
    const int frames = options.frames > 0 ? options.frames : plan.settleFrames;
    for (int i = 0; i < frames - 1; ++i) {
        View earlier = view;
        earlier.seconds -= (frames - 1 - i) / options.framesPerSecond;
        const Scene then = with_baked_light(scene_at(asked, earlier.seconds), setup);
        const DrawList draws = build_draw_list(then, setup, earlier);
        auto frame = make_frame(
            FrameInputs{then, setup, earlier, draws, time_of(index_, earlier.seconds), before_ ? &*before_ : nullptr});
        if (!frame) return tl::unexpected(frame.error());
        auto prepared = prepare_all(**frame);
        if (!prepared) return tl::unexpected(prepared.error());
        for (const Prepared& p : *prepared)
            run_pass(p);
        before_ = FrameBefore{earlier, then.placed, draws};
        ++index_;
    }
    FrameTime last = time_of(index_, view.seconds);
    if (!cut && index_ == 0) last.elapsed = next.elapsed;
    return last;
}

Result<FrameRecord> Session::render(const Scene& asked, const Setup& setup, const View& shown,
                                    const RenderOptions& options) {
    const double start = now_ms();
    const Scene scene = with_baked_light(scene_at(asked, shown.seconds), setup);
    const View view = rendered_view(setup, shown);
    if (view.width < 1 || view.height < 1 || view.width > 16384 || view.height > 16384)
        return fail("the picture size must lie between 1x1 and 16384x16384",
                    std::to_string(view.width) + "x" + std::to_string(view.height));
    context_->make_current();
    if (view.stereo == Stereo::onePass && !epoxy_has_gl_extension("GL_ARB_shader_viewport_layer_array"))
        return fail("this device cannot choose a layer in the vertex shader, which drawing both eyes in one pass needs",
                    "GL_ARB_shader_viewport_layer_array", "Let the target draw its eyes in two passes.");
    (void)check("before the frame");
    if (auto ok = take_scene(scene); !ok) return tl::unexpected(ok.error());
    FrameRecord record;
    record.clock = options.gpuClock ? "gpu" : "fenced";
    const DrawList list = build_draw_list(scene, setup, view);
    auto time = settle(asked, scene, setup, view, list, options);
    if (!time) return tl::unexpected(time.error());
    const std::optional<FrameBefore> before = std::exchange(before_, FrameBefore{view, scene.placed, {}});
    auto made = make_frame(FrameInputs{scene, setup, view, list, *time, before ? &*before : nullptr}, options.gatherMs);
    if (!made) return tl::unexpected(made.error());
    Frame& frame = **made;
    if (frame.plan.has_history()) before_->draws = list;
    fill_head(frame.plan, record);
    const bool held =
        held_ && !held_->history && held_->scene.asset == scene.asset && held_->scene.lights == scene.lights &&
        held_->scene.motions == scene.motions && held_->scene.sky == scene.sky &&
        held_->scene.volumes == scene.volumes && held_->scene.cheapLights == scene.cheapLights &&
        held_->scene.probes == scene.probes && held_->scene.flat == scene.flat && held_->scene.blocks == scene.blocks &&
        held_->scene.placed == scene.placed && held_->scene.doors == scene.doors && held_->leftOut == list.leftOut &&
        held_->setup == setup && held_->view == view && options.frames == 0;
    auto prepared = prepare_all(frame);
    if (!prepared) {
        held_.reset();
        return tl::unexpected(prepared.error());
    }
    if (!held || options.fencedSamples > 0 || options.wholeSamples > 0) {
        held_.reset();
        if (auto ok = run_frame(frame, *prepared, record, options); !ok) return tl::unexpected(ok.error());
        if (record.settled()) held_ = Held{scene, setup, view, frame.plan.has_history(), list.leftOut, frame.resources};
        index_ = time->index + 1;
    } else
        for (const PlannedPass& p : frame.plan.passes)
            record.passes.push_back({p.name, p.family, {}, p.expected, false});
    if (auto ok = answer(frame, *prepared, options, record); !ok) return tl::unexpected(ok.error());
    record.answerMs = now_ms() - start;
    return record;
}

Result<void> Session::answer(Frame& frame, const std::vector<Prepared>& prepared, const RenderOptions& options,
                             FrameRecord& record) {
    if (options.count) {
        vitals_->enter("counting work");
        if (auto ok = count_work(frame, record); !ok) return ok;
    }
    PassFrame& left = *frame.eyes.front(); // what is looked at beside the picture is of the left eye
    if (frame.plan.resource("light lists") && options.lightLists) {
        record.lightGrid = read_light_lists(left, false);
        if (!frame.inputs.draws.blended.empty()) record.transparentGrid = read_light_lists(left, true);
    }
    if (auto ok = show_single_depth(left); !ok) return ok;
    if (options.probe)
        if (auto ok = read_probe(*options.probe, left, record); !ok) return ok;
    vitals_->enter("reading pictures back");
    if (auto ok = read_outputs(frame, options, record); !ok) return ok;
    left.textures.erase("depthTexture");
    if (auto ok = read_targets(frame, prepared, options, record); !ok) return ok;
    if (options.writes)
        if (auto ok = read_writes(frame, prepared, options, record); !ok) return ok;
    if (options.seen) {
        record.drawn = drawn_objects(left);
        auto seen = seen_pixels(left, scratch_);
        if (!seen) return tl::unexpected(seen.error());
        record.seenPixels = std::move(*seen);
    }
    if (options.ledger) { // last: it draws over the targets
        vitals_->enter("filling the ledger");
        held_.reset();
        if (auto ok = fill_ledger(frame, record); !ok) return ok;
    }
    return check("rendering");
}

Result<Commands> Session::injected_work(int rounds) {
    auto program = programs_.get(
        {{GL_VERTEX_SHADER, "screen/vertex.glsl", ""}, {GL_FRAGMENT_SHADER, "clock/known_work.glsl", ""}}, {});
    if (!program) return tl::unexpected(program.error());
    auto target = scratch_.get("injected work", 256, 256, {GL_RGBA8}, GL_NONE);
    if (!target) return tl::unexpected(target.error());
    PassState state;
    state.framebuffer = (*target)->framebuffer.name();
    state.width = state.height = 256;
    state.depthTest = state.depthWrite = false;
    glProgramUniform1i((*program)->name(), (*program)->uniform("rounds"), rounds);
    return [program = *program, state, vao = empty_.name()] {
        state.apply();
        glUseProgram(program->name());
        glBindVertexArray(vao);
        glDrawArrays(GL_TRIANGLES, 0, 3);
    };
}

Result<void> Session::run_frame(Frame& frame, const std::vector<Prepared>& prepared, FrameRecord& record,
                                const RenderOptions& options) {
    for (const PlannedPass& p : frame.plan.passes)
        record.passes.push_back({p.name, p.family, {}, p.expected, false});
    std::vector<Prepared> steps = prepared;
    if (options.injectedWork > 0) {
        auto injected = injected_work(options.injectedWork);
        if (!injected) return tl::unexpected(injected.error());
        steps.push_back({std::move(*injected)});
        record.passes.push_back({injected_pass, "injected", {}, {}, false});
    }
    const std::uint64_t instrumentedBefore = programs_.instrumented_uses();
    // Nothing but commands runs while time is taken: the driver's messages are asked for afterwards, not as they come.
    context_->listen_closely(false);
    time_passes(steps, record, options);
    context_->listen_closely(true);
    record.instrumented = programs_.instrumented_uses() != instrumentedBefore;
    // Float layers and the picture need a frame even when none was timed.
    if (options.fencedSamples <= 0 && options.wholeSamples <= 0)
        for (std::size_t i = 0; i < prepared.size(); ++i) {
            const DebugGroup group(frame.plan.passes[i].name);
            vitals_->at(static_cast<int>(i));
            for (PassFrame* f : frame.all())
                f->drawn.reset();
            run_pass(prepared[i]);
            take_drawn(frame, frame.plan.passes[i], record.passes[i].work);
        }
    std::set<const Technique*> asked;
    for (const PlannedPass& p : frame.plan.passes)
        if (const GpuTechnique& side = gpu_technique(*p.technique); side.tell && asked.insert(p.technique).second)
            side.tell(*frame.eyes.front());
    record.told = frame.eyes.front()->told;
    return {};
}

void Session::time_passes(const std::vector<Prepared>& steps, FrameRecord& record, const RenderOptions& options) {
    std::vector<Query> queries;
    if (options.gpuClock || options.wholeQueries)
        for (std::size_t i = 0; i < steps.size(); ++i) {
            GLuint name = 0;
            glCreateQueries(GL_TIME_ELAPSED, 1, &name);
            queries.emplace_back(name);
        }
    const auto run = [&](std::size_t i) {
        vitals_->at(static_cast<int>(i));
        run_pass(steps[i]);
    };
    for (int sample = 0; sample < options.fencedSamples; ++sample) {
        if (!options.gpuClock) {
            for (std::size_t i = 0; i < steps.size(); ++i)
                record.passes[i].ms.push_back(fenced_ms([&] { run(i); }));
            continue;
        }
        for (std::size_t i = 0; i < steps.size(); ++i) {
            glBeginQuery(GL_TIME_ELAPSED, queries[i].name());
            run(i);
            glEndQuery(GL_TIME_ELAPSED);
        }
        for (std::size_t i = 0; i < steps.size(); ++i) {
            GLuint64 ns = 0;
            glGetQueryObjectui64v(queries[i].name(), GL_QUERY_RESULT, &ns);
            record.passes[i].ms.push_back(static_cast<double>(ns) * 1e-6);
        }
    }
    for (int sample = 0; sample < options.wholeSamples; ++sample)
        record.wholeMs.push_back(fenced_ms([&] {
            for (std::size_t i = 0; i < steps.size(); ++i) {
                if (options.wholeQueries) glBeginQuery(GL_TIME_ELAPSED, queries[i].name());
                run(i);
                if (options.wholeQueries) glEndQuery(GL_TIME_ELAPSED);
            }
        }));
}

} // namespace mirolux::gpu

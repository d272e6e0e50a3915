#include "gpu/frame/session.h"
#include "core/light/tone.h"
#include "core/scene/geometry.h"
#include "core/cull/grid_settings.h"
#include "gpu/frame/clock.h"

namespace mirolux::gpu {

Result<std::unique_ptr<Session>> Session::create(bool software, const std::string& shaderFolder) {
    auto context = Context::create(software);
    if (!context) return tl::unexpected(context.error());
    return std::unique_ptr<Session>(new Session(std::move(*context), ShaderLibrary(shaderFolder)));
}

Session::Session(std::unique_ptr<Context> context, ShaderLibrary library) : context_(std::move(context)), programs_(std::move(library)) {
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
    if (error == GL_OUT_OF_MEMORY) return fail("the device ran out of memory", step, "Choose a smaller picture or a smaller scene.");
    if (error != GL_NO_ERROR) return fail("the device refused a command: " + message, step, "This is a fault of Mirolux or the driver; the setup is kept.");
    return {};
}

namespace {

/// Appends commands for draws (by index) and groups neighbours of one material and winding into batches.
std::vector<Batch> batch(const SceneResources& scene, const std::vector<Draw>& draws, const std::vector<std::uint32_t>* subset, std::uint32_t firstDraw, bool merge,
                         std::vector<DrawCommand>& commands) {
    std::vector<Batch> batches;
    const SceneAsset& asset = scene.asset();
    const std::size_t count = subset ? subset->size() : draws.size();
    for (std::size_t i = 0; i < count; ++i) {
        const std::uint32_t d = subset ? (*subset)[i] : static_cast<std::uint32_t>(i);
        const Object& object = asset.objects[static_cast<std::size_t>(draws[d].object)];
        const int material = static_cast<int>(asset.material_index(object));
        const auto& slice = scene.slice(object.primitive);
        commands.push_back({slice.count, 1, slice.firstIndex, slice.baseVertex, firstDraw + d});
        if (merge && !batches.empty() && batches.back().material == material && batches.back().mirrored == object.mirrored) ++batches.back().count;
        else batches.push_back({material, object.mirrored, commands.size() - 1, 1});
    }
    return batches;
}

/// The buffer as a buffer texture on a unit; storage may have been made anew, so it is attached each time.
void bind_texels(Texture& texels, GLenum format, const Buffer& buffer, GLuint unit) {
    if (!texels) {
        GLuint name = 0;
        glCreateTextures(GL_TEXTURE_BUFFER, 1, &name);
        texels = Texture(name);
    }
    glTextureBuffer(texels.name(), format, buffer.name());
    glBindTextureUnit(unit, texels.name());
}

LightData light_data(const Light& l, float reach) {
    LightData d{};
    d.position = l.position;
    d.range = l.range;
    d.direction = l.direction;
    d.reach = reach;
    d.intensity = effective_color(l) * l.intensity;
    d.type = l.type == LightType::directional ? 0 : l.type == LightType::point ? 1 : 2;
    d.cosInner = std::cos(l.innerConeAngle);
    d.cosOuter = std::cos(l.outerConeAngle);
    return d;
}

} // namespace

void Session::upload(const Scene& scene, const Setup& setup, const View& view, const DrawList& list, PassContext& context, FrameRecord& record) {
    const SceneAsset& asset = *scene.asset;
    FrameData f{};
    const double aspect = double(view.width) / view.height;
    f.viewProjection = projection_matrix(view.camera, aspect) * view_matrix(view.camera);
    // Computed from a finite stand-in: the sky only needs directions, and the infinite projection inverts exactly.
    f.inverseViewProjection = glm::mat4(glm::inverse(glm::dmat4(f.viewProjection)));
    const glm::vec3 forward = glm::normalize(view.camera.aim - view.camera.eye);
    f.eye = glm::vec4(view.camera.eye, static_cast<float>(tone::exposure_scale(setup.number("exposure.ev100"))));
    f.forward = glm::vec4(forward, view.camera.near);
    const std::string& ambient = setup.choice("ambient.kind");
    if (ambient == "constant") f.ambientTop = f.ambientSide = f.ambientBottom = glm::vec4(setup.color("ambient.constant"), 0);
    else if (ambient == "gradient") {
        f.ambientTop = glm::vec4(setup.color("ambient.top"), 0);
        f.ambientSide = glm::vec4(setup.color("ambient.side"), 0);
        f.ambientBottom = glm::vec4(setup.color("ambient.bottom"), 0);
    }
    f.skyHorizon = glm::vec4(scene.sky.horizon, 0);
    f.skyZenith = glm::vec4(scene.sky.zenith, 0);
    f.exponent = static_cast<float>(setup.number("shading.exponent"));
    f.white = static_cast<float>(setup.number("tone.white"));
    const std::string& curve = setup.choice("tone.curve");
    f.toneCurve = curve == "none" ? 0 : curve == "clamp" ? 1 : curve == "reinhard" ? 2 : 3;
    f.dither = setup.flag("output.dither") ? 1 : 0;
    f.width = view.width;
    f.height = view.height;
    float nearest = 3.4e38f;
    std::vector<float> ends; // of every visible object along the view axis; the layer's range ends where nine tenths of them do
    for (const auto* draws : {&list.opaque, &list.blended})
        for (const Draw& d : *draws) {
            const Box& b = asset.objects[static_cast<std::size_t>(d.object)].bounds;
            const float center = glm::dot(b.center() - view.camera.eye, forward), extent = 0.5f * glm::dot(b.size(), glm::abs(forward));
            nearest = std::min(nearest, center - extent);
            ends.push_back(center + extent);
        }
    f.depthNear = record.depthNear = std::clamp(nearest, view.camera.near, 1e6f);
    std::sort(ends.begin(), ends.end());
    const float farthest = ends.empty() ? 1.0f : ends[(ends.size() - 1) * 9 / 10];
    f.depthFar = record.depthFar = std::max(farthest, f.depthNear + 1e-3f);
    frame_.upload(&f, sizeof f);

    std::vector<LightData> lights;
    for (std::size_t i = 0; i < list.lights.size(); ++i)
        lights.push_back(light_data(list.lights[i], list.reach[i]));
    lights_.upload(lights.data(), lights.size() * sizeof(LightData));
    bind_texels(lightTexels_, GL_RGBA32F, lights_, 9);
    lightIndices_.upload(list.lightIndices.data(), list.lightIndices.size() * 4);

    std::vector<DrawData> draws;
    for (const auto* part : {&list.opaque, &list.blended})
        for (const Draw& d : *part) {
            const Object& o = asset.objects[static_cast<std::size_t>(d.object)];
            DrawData data{};
            data.model = o.transform;
            const glm::mat3 normal = normal_matrix(o.transform);
            for (int c = 0; c < 3; ++c)
                data.normalMatrix[c] = glm::vec4(normal[c], 0);
            data.material = static_cast<std::uint32_t>(asset.material_index(o));
            data.lightOffset = d.lightOffset;
            data.lightCount = d.lightCount;
            draws.push_back(data);
        }
    draws_.upload(draws.data(), draws.size() * sizeof(DrawData));

    std::vector<DrawCommand> commands;
    context.opaque = batch(*scene_, list.opaque, nullptr, 0, true, commands);
    context.blended = batch(*scene_, list.blended, nullptr, static_cast<std::uint32_t>(list.opaque.size()), true, commands);
    for (const LightDraws& per : list.perLight)
        context.lights.push_back({per.light, per.rect, batch(*scene_, list.opaque, &per.draws, 0, true, commands)});
    commands_.upload(commands.data(), commands.size() * sizeof(DrawCommand));
    context.commandBuffer = commands_.name();

    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 0, frame_.name());
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 1, lights_.name());
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 2, draws_.name());
    scene_->bind_materials();
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 4, lightIndices_.name());
    context.lightIndexBuffer = lightIndices_.name();
}

Result<void> Session::upload_grid(const Setup& setup, const View& view, const DrawList& list, PassContext& context) {
    const cull::GridSettings s = cull::grid_settings(setup, context.path.clustered);
    const auto lights = cull::view_lights(list.lights, list.reach, list.directional, view.camera);
    if (lights.size() > 16384) return fail("there are " + std::to_string(lights.size()) + " lights in view; light lists take 16,384", "path.kind", "Shorten ranges, or take the deferred path.");
    GridData g{};
    g.columns = (view.width + s.tile - 1) / s.tile;
    g.rows = (view.height + s.tile - 1) / s.tile;
    g.slices = s.slices;
    g.tile = s.tile;
    // A list never holds more than all lights: small scenes need no room for the full capacity.
    g.capacity = std::min(s.capacity, std::max(8, static_cast<int>(lights.size())));
    g.depthBounds = static_cast<int>(s.depthBounds);
    g.test = static_cast<int>(s.test);
    g.coneTest = s.coneTest;
    g.sliceNear = s.sliceNear;
    g.sliceFar = s.sliceFar;
    g.sliceExponent = s.sliceExponent;
    g.cameraNear = view.camera.near;
    g.firstBounded = list.directional;
    g.lightCount = static_cast<int>(list.lights.size());
    g.transparent = list.blended.empty() ? 0 : 1;
    const float ty = std::tan(0.5f * view.camera.fovY);
    g.extent = {ty * static_cast<float>(view.width) / static_cast<float>(view.height), ty};
    grid_.upload(&g, sizeof g);
    std::vector<CullLightData> data;
    for (const cull::CullLight& l : lights)
        data.push_back({glm::vec4(l.bounds.center, l.bounds.radius), glm::vec4(l.position, l.reach), glm::vec4(l.direction, l.cosOuter), glm::vec4(l.sinOuter, l.strength, 0, 0)});
    cullLights_.upload(data.data(), data.size() * sizeof(CullLightData));
    const std::size_t cells = std::size_t(g.columns) * g.rows * g.slices;
    GLint most = 0;
    glGetIntegerv(GL_MAX_TEXTURE_BUFFER_SIZE, &most);
    const std::size_t entries = cells * (1 + static_cast<std::size_t>(g.capacity)) * static_cast<std::size_t>(1 + g.transparent);
    if (entries > static_cast<std::size_t>(most))
        return fail("light lists of " + std::to_string(entries) + " entries are more than this device reads (" + std::to_string(most) + ")", "culling.listCapacity", "Lower the list capacity, or take larger tiles or fewer slices.");
    lists_.reserve(cells * (1 + static_cast<std::size_t>(g.capacity)) * 4 * static_cast<std::size_t>(1 + g.transparent));
    overflow_.reserve(16);
    context.cells = {g.columns, g.rows, g.slices};
    context.cullLightBuffer = cullLights_.name();
    context.overflowBuffer = overflow_.name();
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 5, grid_.name());
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 6, lists_.name());
    bind_texels(listTexels_, GL_R32UI, lists_, 10);
    listCapacity_ = g.capacity;
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
    glGetNamedBufferSubData(overflow_.name(), part * 8, 8, overflow);
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

Result<FrameRecord> Session::render(const Scene& scene, const Setup& setup, const View& view, const RenderOptions& options) {
    const double start = now_ms();
    if (view.width < 1 || view.height < 1 || view.width > 16384 || view.height > 16384)
        return fail("the picture size must lie between 1x1 and 16384x16384", std::to_string(view.width) + "x" + std::to_string(view.height));
    context_->make_current();
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
    Targets& targets = pool_.targets(view.width, view.height, setup.choice("path.targetFormat") == "rgba16f" ? GL_RGBA16F : GL_RGBA32F, path.stencil);
    PassContext context{*scene_, setup, list, targets, programs_, empty_.name()};
    context.path = path;
    context.prepass = path.prepass;
    context.alive = alive_;
    if (path.deferred) context.gbuffer = &TargetPool::gbuffer(targets, setup.choice("gbuffer.packing") == "full");
    context.cullLanes = cull_lanes(setup);
    if (path.volumes) {
        if (!proxies_) proxies_.emplace();
        context.proxies = &*proxies_;
        context.depthCopy = TargetPool::depth_copy(targets);
    }
    if (path.peeled) context.peel = &TargetPool::peel(targets);
    if (path.lists) {
        if (auto ok = upload_grid(setup, view, list, context); !ok) return tl::unexpected(ok.error());
    }
    upload(scene, setup, view, list, context, record);
    if (auto ok = check("preparing the frame"); !ok) return tl::unexpected(ok.error());
    const bool held = held_ && held_->scene.asset == scene.asset && held_->scene.lights == scene.lights && held_->scene.motions == scene.motions && held_->scene.sky == scene.sky && held_->setup == setup && held_->view == view;
    if (!held || options.fencedSamples > 0 || options.wholeSamples > 0) {
        held_.reset();
        if (auto ok = run_frame(plan, context, record, options); !ok) return tl::unexpected(ok.error());
        held_ = Held{scene, setup, view};
    } else
        for (const PlannedPass& p : plan.passes)
            record.passes.push_back({p.name, p.family, {}, p.expected, false});
    if (options.count)
        if (auto ok = count_work(plan, context, record); !ok) return tl::unexpected(ok.error());
    if (path.lists && options.lightLists) {
        record.lightGrid = read_grid(context, std::stoi(setup.choice("culling.tile")), 0);
        if (!list.blended.empty()) record.transparentGrid = read_grid(context, std::stoi(setup.choice("culling.tile")), 1);
    }
    if (options.probe)
        if (auto ok = read_probe(*options.probe, context, record); !ok) return tl::unexpected(ok.error());
    if (auto ok = read_outputs(scene, setup, view, context, options, record); !ok) return tl::unexpected(ok.error());
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

Result<void> Session::run_frame(const FramePlan& plan, PassContext& context, FrameRecord& record, const RenderOptions& options) {
    std::vector<const Pass*> passes;
    for (const PlannedPass& p : plan.passes) {
        passes.push_back(&pass_of(p.kind));
        if (auto ok = passes.back()->prepare(context); !ok) return ok;
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
        if (i >= passes.size()) return inject_work(injected, options.injectedWork);
        const DebugGroup group(plan.passes[i].name);
        passes[i]->run(context);
        if (alive_) alive_();
    };
    const std::uint64_t instrumentedBefore = programs_.instrumented_uses();
    std::vector<Query> queries;
    if (options.gpuClock)
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
            for (std::size_t i = 0; i < count; ++i)
                run(i);
        }));
    record.instrumented = programs_.instrumented_uses() != instrumentedBefore;
    // Float layers and the picture need a frame even when none was timed.
    if (options.fencedSamples <= 0 && options.wholeSamples <= 0)
        for (std::size_t i = 0; i < passes.size(); ++i)
            run(i);
    return {};
}

} // namespace mirolux::gpu

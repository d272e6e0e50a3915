#include "core/blocks/block_stage.h"
#include "core/finish/edges.h"
#include "core/flat/flat_account.h"
#include "core/flat/flat_stage.h"
#include "core/surface/subsurface.h"
#include "core/visibility/visibility.h"
#include "gpu/frame/session.h"
#include "gpu/passes/surface_pass.h"
#include "gpu/passes/visibility.h"
#include <cstring>
#include <set>

// What instrumented variants of the shaders report, after all timing: work of each pass, what each light costs and
// gives, and the surfaces that cover a pixel.
namespace mirolux::gpu {

static constexpr std::size_t counter_stripes = 64; // shaders/include/count.glsl

/// Sums of the stripes, by counter.
static Work read_counters(GLuint buffer) {
    const std::vector<Counter>& counters = all_counters();
    std::vector<std::uint32_t> words(counter_stripes * counters.size() * 2);
    glMemoryBarrier(GL_BUFFER_UPDATE_BARRIER_BIT);
    glFinish();
    glGetNamedBufferSubData(buffer, 0, static_cast<GLsizeiptr>(words.size() * 4), words.data());
    Work work;
    for (std::size_t stripe = 0; stripe < counter_stripes; ++stripe)
        for (std::size_t c = 0; c < counters.size(); ++c) {
            const std::size_t at = 2 * (stripe * counters.size() + c);
            work.add(counters[c].name, words[at] + (std::uint64_t(words[at + 1]) << 32));
        }
    return work;
}

void Session::take_drawn(const Frame& frame, const PlannedPass& pass, Work& work) {
    for (const PassFrame* f : frame.all()) {
        if (!f->drawn) continue;
        for (const auto& [name, value] : pass.expected.counts)
            work.set(name, 0);
        for (const auto& [name, value] : f->drawn->counts)
            work.set(name, value);
    }
}

Result<void> Session::count_work(Frame& frame, FrameRecord& record) {
    const std::vector<std::uint32_t> zeros(counter_stripes * all_counters().size() * 2, 0);
    Buffer& buffer = store_.buffer("counters");
    for (std::size_t i = 0; i < frame.plan.passes.size(); ++i) {
        buffer.upload(zeros.data(), zeros.size() * 4);
        for (PassFrame* f : frame.all()) {
            f->instrument = Instrument::count;
            f->drawn.reset();
            f->buffers["CounterBuffer"] = {buffer.name(), 0, 0};
        }
        auto prepared = prepare_pass(frame.plan.passes[i], frame);
        if (!prepared) return tl::unexpected(prepared.error());
        run_pass(*prepared);
        Work& work = record.passes[i].work;
        const Work counted = read_counters(buffer.name());
        for (const auto& [name, value] : counted.counts)
            work.set(name, value);
        take_drawn(frame, frame.plan.passes[i], work);
        record.passes[i].counted = true;
        vitals_->beat();
    }
    for (PassFrame* f : frame.all())
        f->instrument = Instrument::none;
    if (found_on_device(frame.inputs.setup, frame.inputs.view)) enter_draws_left(frame, record);
    return {};
}

/// Of passes that draw what visibility has left: their draws and triangles, as a plan of these objects alone has them.
void Session::enter_draws_left(Frame& frame, FrameRecord& record) {
    const FrameInputs& in = frame.inputs;
    const DrawList left = with_only(in.draws, in.scene, drawn_objects(*frame.eyes.front()));
    const FramePlan plan = plan_frame(FrameInputs{in.scene, in.setup, in.view, left, in.time, in.before}, more_);
    for (std::size_t i = 0; i < frame.plan.passes.size(); ++i) {
        const PlannedPass& planned = frame.plan.passes[i];
        const bool peels = planned.family == "transparent" && !planned.overGeometry;
        if (!planned.overGeometry && !peels) continue;
        const PlannedPass* now = plan.pass(planned.name);
        // Layers are peeled and put over each other whether anything is left in them or not.
        const std::uint64_t without = peels ? static_cast<std::uint64_t>(in.setup.whole("transparency.layers")) + 1 : 0;
        for (const char* counter : {"draws", "triangles"})
            record.passes[i].work.set(counter, now ? now->expected.at(counter) : without);
    }
}

/// Panes, nearest first: each takes its share of what those before it let through, then dims what lies behind.
static Result<void> enter_panes(PassFrame& f, GLuint target) {
    std::vector<std::string> variant = f.blended_variant();
    variant.push_back("LEDGER_BLENDED");
    auto stage = f.surface_stage(variant);
    if (!stage) return tl::unexpected(stage.error());
    PassState state;
    state.framebuffer = target;
    state.width = f.width();
    state.height = f.height();
    state.depthWrite = false;
    state.blend = {true, GL_ZERO, GL_SRC_COLOR, GL_ZERO, GL_SRC_COLOR};
    for (auto b = f.blendedSingly.rbegin(); b != f.blendedSingly.rend(); ++b)
        for (std::size_t i = b->count; i-- > 0;) {
            glTextureBarrier();
            f.draw({{b->material, b->mirrored, b->first + i, 1}}, *stage, state);
        }
    glTextureBarrier();
    f.vitals.beat();
    return {};
}

/// Which draw each pixel of a G-buffer shows: where lights are evaluated on the screen, it says for whom.
static Result<GLuint> enter_draws(PassFrame& f, ScratchPool& scratch, bool stencil) {
    auto target = scratch.get("ledger draws", f.width(), f.height(), {GL_R32F},
                              stencil ? GL_DEPTH32F_STENCIL8 : GL_DEPTH_COMPONENT32F);
    if (!target) return tl::unexpected(target.error());
    auto stage = f.mesh_stage("object_numbers/fragment.glsl", {});
    if (!stage) return tl::unexpected(stage.error());
    PassState state;
    state.framebuffer = (*target)->framebuffer.name();
    state.width = f.width();
    state.height = f.height();
    state.apply();
    clear_color(state.framebuffer);
    depth_clear(f, state.framebuffer)();
    f.draw(f.opaque, *stage, state);
    return (*target)->colors[0].name();
}

Result<void> Session::fill_ledger(Frame& frame, FrameRecord& record) {
    PassFrame& f = *frame.eyes.front();
    const DrawList& list = frame.inputs.draws;
    std::vector<LedgerData> entries(list.lights.size() + 1, LedgerData{});
    Buffer& buffer = store_.buffer("ledger");
    buffer.upload(entries.data(), entries.size() * sizeof(LedgerData));
    f.buffers["LedgerBuffer"] = {buffer.name(), 0, 0};
    const Result<void> ok =
        frame.inputs.scene.stage() != mirolux::Stage::solid ? run_ledger(frame) : enter_surfaces(frame, record);
    f.instrument = Instrument::none;
    if (!ok) return ok;
    glMemoryBarrier(GL_BUFFER_UPDATE_BARRIER_BIT);
    glFinish();
    glGetNamedBufferSubData(buffer.name(), 0, static_cast<GLsizeiptr>(entries.size() * sizeof(LedgerData)),
                            entries.data());
    record.cheap = std::move(f.cheap);
    // What a step is worth, cd/m2 (shaders/include/ledger.glsl); of a flat stage in parts of what a sheet shows.
    const double unit = 1.0 / (1048576.0 * double(frame.plan.parameters.at("tone").x));
    // Where light travels no pass takes up a light by itself: what each gives is found by rays.
    const FrameInputs& in = frame.inputs;
    const std::vector<double> travelled = in.scene.is_flat() && flat::way_of(in.setup) == flat::Way::cascades
                                              ? flat::plane_contributions(in.scene, in.setup, in.view, list)
                                              : std::vector<double>();
    for (std::size_t i = 0; i < list.lights.size(); ++i) {
        const LedgerData& e = entries[i];
        const auto map = f.mapMs.find(static_cast<int>(i));
        record.ledger.push_back({list.lights[i].id, e.evaluations,
                                 travelled.empty() ? (e.low + 4294967296.0 * e.high) * unit : travelled[i], e.taps,
                                 map != f.mapMs.end() ? map->second : 0.0, e.cells,
                                 (e.airLow + 4294967296.0 * e.airHigh) * unit});
    }
    return {};
}

Result<void> Session::run_ledger(Frame& frame) {
    PassFrame& f = *frame.eyes.front();
    f.instrument = Instrument::ledger;
    for (const PlannedPass& pass : frame.plan.passes) {
        if (!pass.inLedger) continue;
        auto commands = gpu_technique(*pass.technique).prepare(f, pass);
        if (!commands) return tl::unexpected(commands.error());
        (*commands)();
        vitals_->beat();
    }
    return {};
}

Result<void> Session::enter_surfaces(Frame& frame, FrameRecord& record) {
    PassFrame& f = *frame.eyes.front();
    const DrawList& list = frame.inputs.draws;
    // The depth that the picture ended with, to read while passes lay theirs anew; and what panes before it let
    // through.
    const bool stencil = frame.plan.resource("depth")->spec.format == Format::depth32fStencil8;
    auto copy =
        scratch_.get("ledger depth", f.width(), f.height(), {}, stencil ? GL_DEPTH32F_STENCIL8 : GL_DEPTH_COMPONENT32F);
    auto through = scratch_.get("ledger transmittance", f.width(), f.height(), {GL_R32F}, GL_NONE);
    if (!copy) return tl::unexpected(copy.error());
    if (!through) return tl::unexpected(through.error());
    glCopyImageSubData(f.texture("depth"), GL_TEXTURE_2D, 0, 0, 0, 0, (*copy)->depth.name(), GL_TEXTURE_2D, 0, 0, 0, 0,
                       f.width(), f.height(), 1);
    const Framebuffer target = make_framebuffer("ledger");
    glNamedFramebufferTexture(target.name(), GL_COLOR_ATTACHMENT0, (*through)->colors[0].name(), 0);
    glNamedFramebufferTexture(target.name(), stencil ? GL_DEPTH_STENCIL_ATTACHMENT : GL_DEPTH_ATTACHMENT,
                              f.texture("depth"), 0);
    PassState plain;
    plain.framebuffer = target.name();
    plain.width = f.width();
    plain.height = f.height();
    plain.apply();
    const float one[4] = {1, 1, 1, 1};
    glClearNamedFramebufferfv(target.name(), GL_COLOR, 0, one);
    auto draws = enter_draws(f, scratch_, stencil);
    if (!draws) return tl::unexpected(draws.error());
    f.textures["ledgerDraws"] = *draws;
    std::vector<glm::uvec2> objects(list.opaque.size() + list.blended.size() + 1, glm::uvec2(0));
    Buffer& objectBuffer = store_.buffer("ledger of objects");
    objectBuffer.upload(objects.data(), objects.size() * sizeof(glm::uvec2));
    f.buffers["LedgerObjectBuffer"] = {objectBuffer.name(), 0, 0};
    f.textures["ledgerTransmittance"] = (*through)->colors[0].name();
    f.textures["ledgerDepth"] = (*copy)->depth.name();
    f.instrument = Instrument::ledger;
    if (!f.blended.empty())
        if (auto ok = enter_panes(f, target.name()); !ok) return ok;
    if (auto ok = run_ledger(frame); !ok) return ok;
    glMemoryBarrier(GL_BUFFER_UPDATE_BARRIER_BIT);
    glFinish();
    glGetNamedBufferSubData(objectBuffer.name(), 0, static_cast<GLsizeiptr>(objects.size() * sizeof(glm::uvec2)),
                            objects.data());
    std::size_t entered = 0;
    for (const auto* part : {&list.opaque, &list.blended})
        for (const Draw& d : *part) {
            record.objects.push_back({d.object, objects[entered].x, objects[entered].y});
            ++entered;
        }
    return {};
}

/// A surface as the device wrote it down.
static SurfaceSample sample_of(const ProbeData& d) {
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
    s.mirrored = glm::vec3(d.mirrored);
    s.bakedOcclusion = d.mirrored.w;
    s.reflected = glm::vec3(d.reflected);
    s.probes = glm::vec3(d.probes);
    s.baked = glm::vec3(d.baked);
    s.mapped = d.baked.w > 0.5f;
    s.answer = static_cast<int>(std::lround(d.reflected.w));
    s.screenOcclusion = d.screenOcclusion;
    s.thickness = d.thickness;
    s.unlit = d.ambient.w > 0.5f;
    s.draw = d.draw;
    s.triangle = d.triangle;
    return s;
}

/// What a flat stage shows at a pixel: colour, glow, normal, layer (as the draw) and whether it is lit.
static SurfaceSample flat_sample(const PassFrame& f, glm::ivec2 pixel) {
    const View stage = flat::stage_view(f.inputs.setup, f.inputs.view);
    const glm::ivec2 at = flat::stage_pixel(f.inputs.view, stage, pixel);
    const auto read = [&](const char* resource) {
        glm::vec4 value(0.0f);
        if (!f.plan.resource(resource)) return value;
        const auto target = f.framebuffer({resource});
        if (!target) return value;
        glBindFramebuffer(GL_READ_FRAMEBUFFER, *target);
        glReadBuffer(GL_COLOR_ATTACHMENT0);
        glReadPixels(at.x, stage.height - 1 - at.y, 1, 1, GL_RGBA, GL_FLOAT, &value.x);
        return value;
    };
    SurfaceSample s;
    s.baseColor = glm::vec3(read("flat scene"));
    s.emissive = glm::vec3(read("flat glow"));
    s.normal = {0, 0, 1};
    if (!f.plan.resource("flat surface")) return s;
    const glm::vec4 surface = read("flat surface");
    const glm::vec2 n = (glm::vec2(surface) * 255.0f - 128.0f) / 127.0f; // as shaders/include/flat.glsl
    s.normal = {n, std::sqrt(std::max(0.0f, 1.0f - glm::dot(n, n)))};
    const auto code = static_cast<std::uint32_t>(surface.z * 255.0f + 0.5f);
    s.draw = code & 31u;
    s.unlit = (code & 32u) == 0;
    s.triangle = (code & 64u) == 0 ? 1 : 0; // shadows do not fall on it
    return s;
}

/// What a Blocks stage shows at a pixel: the material's number as the draw, the face as the triangle.
static std::optional<SurfaceSample> block_sample(const PassFrame& f, glm::ivec2 pixel) {
    const auto target = f.framebuffer({"block surface"}, "depth");
    if (!target) return std::nullopt;
    glm::vec4 surface(0.0f);
    float depth = 0;
    const int row = f.height() - 1 - pixel.y;
    glBindFramebuffer(GL_READ_FRAMEBUFFER, *target);
    glReadBuffer(GL_COLOR_ATTACHMENT0);
    glReadPixels(pixel.x, row, 1, 1, GL_RGBA, GL_FLOAT, &surface.x);
    glReadPixels(pixel.x, row, 1, 1, GL_DEPTH_COMPONENT, GL_FLOAT, &depth);
    if (depth <= 0) return std::nullopt;
    const blocks::World& world = *f.inputs.scene.blocks;
    SurfaceSample s;
    const auto number = static_cast<std::uint8_t>(std::lround(surface.x * 255));
    s.draw = number;
    s.triangle = static_cast<std::uint32_t>(std::lround(surface.y * 255)) |
                 static_cast<std::uint32_t>(std::lround(surface.z * 255)) << 8;
    const blocks::Material& m = world.material(number);
    s.baseColor = m.color;
    s.metallic = m.metallic;
    s.roughness = m.roughness;
    s.emissive = m.color * m.glow;
    const View view = eye_views(f.inputs.view).front();
    const glm::dmat4 inverse =
        glm::inverse(glm::dmat4(projection_matrix(view.camera, aspect_of(view)) * view_matrix(view.camera)));
    const glm::dvec4 at = inverse * glm::dvec4((pixel.x + 0.5) / f.width() * 2 - 1,
                                               1 - (pixel.y + 0.5) / f.height() * 2, double(depth), 1);
    s.position = glm::vec3(glm::dvec3(at) / at.w);
    s.depth = view.camera.near / depth;
    const int part = static_cast<int>(s.triangle >> 8), face = static_cast<int>(s.triangle & 255);
    glm::vec3 normal = blocks::Neighbours::directions[std::min(face, 5)];
    if (part > 0 && part <= static_cast<int>(world.props.size()))
        normal = glm::vec3(blocks::out_of_prop(
            glm::dvec3(normal), turn_at(world.props[static_cast<std::size_t>(part - 1)], f.inputs.view.seconds)));
    s.normal = normal;
    return s;
}

/// What the techniques of the plan know of a pixel beside its surfaces.
static Result<void> ask_techniques(PassFrame& f, PixelProbe& probe) {
    std::set<const Technique*> asked;
    for (const PlannedPass& pass : f.plan.passes)
        if (const auto more = gpu_technique(*pass.technique).probe; more && asked.insert(pass.technique).second)
            if (auto ok = more(f, probe); !ok) return ok;
    return {};
}

Result<void> Session::read_probe(glm::ivec2 shownPixel, PassFrame& f, FrameRecord& record) {
    const glm::ivec2 size = shown_size(f.plan.view), pixel = rendered_pixel(f.plan.view, shownPixel);
    if (shownPixel.x < 0 || shownPixel.y < 0 || shownPixel.x >= size.x || shownPixel.y >= size.y)
        return fail("there is no such pixel", std::to_string(shownPixel.x) + ", " + std::to_string(shownPixel.y),
                    "The picture is " + std::to_string(size.x) + "x" + std::to_string(size.y) + ".");
    PixelProbe probe;
    probe.pixel = pixel;
    probe.shown = shownPixel;
    auto state = f.state({"scene"}); // shaders read the depth
    if (!state) return tl::unexpected(state.error());
    float radiance[4] = {};
    const bool several = f.plan.resource("scene")->spec.samples > 1; // then what they came to is read
    auto held = f.framebuffer({several ? resolved_resource : "scene"});
    if (!held) return tl::unexpected(held.error());
    glBindFramebuffer(GL_READ_FRAMEBUFFER, *held);
    glReadBuffer(GL_COLOR_ATTACHMENT0);
    glReadPixels(pixel.x, f.height() - 1 - pixel.y, 1, 1, GL_RGBA, GL_FLOAT, radiance);
    probe.radiance = {radiance[0], radiance[1], radiance[2]};

    if (f.inputs.scene.is_flat()) {
        probe.samples.push_back(flat_sample(f, pixel));
        if (auto ok = ask_techniques(f, probe); !ok) return ok;
        record.probe = std::move(probe);
        return {};
    }
    if (f.inputs.scene.is_blocks()) {
        if (auto sample = block_sample(f, pixel)) probe.samples.push_back(*sample);
        if (auto ok = ask_techniques(f, probe); !ok) return ok;
        record.probe = std::move(probe);
        return {};
    }
    constexpr std::size_t most = 512;
    std::vector<std::uint8_t> bytes(16 + most * sizeof(ProbeData), 0);
    // The buffer's length is the array's limit, so it is made to measure.
    GLuint name = 0;
    glCreateBuffers(1, &name);
    const Owned<delete_buffer> buffer(name);
    glNamedBufferStorage(name, static_cast<GLsizeiptr>(bytes.size()), bytes.data(), 0);
    f.buffers["ProbeBuffer"] = {name, 0, 0};
    // What techniques leave of each light, and how far it goes through the thing, is only asked for where one does.
    const bool through = shines_through(f.inputs.setup, *f.inputs.scene.asset);
    const std::size_t lights = through || std::any_of(f.plan.feeds.begin(), f.plan.feeds.end(),
                                                      [](const Feed& feed) { return feed.slot == Slot::lightFactor; })
                                   ? f.inputs.draws.lights.size()
                                   : 0;
    Buffer& factors = store_.buffer("probed factors");
    factors.reserve(most * lights * sizeof(glm::vec4));
    f.buffers["ProbeFactorBuffer"] = {factors.name(), 0, 0};
    auto stage = f.surface_stage({"PASS_PROBE"});
    f.buffers.erase("ProbeBuffer");
    if (!stage) return tl::unexpected(stage.error());
    stage->set("probeLights", static_cast<GLuint>(lights));
    state->depthTest = state->depthWrite = state->colorWrite = false;
    state->scissor = {pixel.x, pixel.y, pixel.x + 1, pixel.y + 1};
    f.draw(f.opaque, *stage, *state);
    f.draw(f.blended, *stage, *state);
    glMemoryBarrier(GL_BUFFER_UPDATE_BARRIER_BIT);
    glFinish();
    glGetNamedBufferSubData(name, 0, static_cast<GLsizeiptr>(bytes.size()), bytes.data());
    std::uint32_t count = 0;
    std::memcpy(&count, bytes.data(), 4);
    for (std::size_t i = 0; i < std::min<std::size_t>(count, most); ++i) {
        ProbeData d;
        std::memcpy(&d, bytes.data() + 16 + i * sizeof d, sizeof d);
        probe.samples.push_back(sample_of(d));
        SurfaceSample& sample = probe.samples.back();
        std::vector<glm::vec4> told(lights); // share left, metres within, share left where it goes in
        if (lights > 0)
            glGetNamedBufferSubData(factors.name(), static_cast<GLintptr>(i * lights * sizeof(glm::vec4)),
                                    static_cast<GLsizeiptr>(lights * sizeof(glm::vec4)), told.data());
        for (const glm::vec4& t : told) {
            sample.lightFactors.push_back(t.x);
            if (through) sample.lightThrough.emplace_back(t.y, t.z);
        }
    }
    if (auto ok = ask_techniques(f, probe); !ok) return ok;
    record.probe = std::move(probe);
    return {};
}

} // namespace mirolux::gpu

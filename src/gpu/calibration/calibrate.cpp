#include "core/cost/device_profile.h"
#include "gpu/calibration/abstract_scene.h"
#include "gpu/frame/clock.h"
#include "gpu/frame/session.h"

// Calibration: plain workloads that stress one thing each, and frames of made-up scenes whose passes stress the real
// shaders. Each is timed with fences, all of them in turn and then all again, so that a slow minute of the machine does
// not fall on one of them.
namespace mirolux::gpu {

namespace {

struct Plain {
    std::string name;
    CostTerms terms;
    std::function<void()> run;
};

CostTerms terms(std::initializer_list<std::pair<CostTerm, double>> list) {
    CostTerms t;
    t[CostTerm::run] = 1;
    for (const auto& [term, amount] : list)
        t[term] += amount;
    return t;
}

/// A texture to draw to or read from, its framebuffer, and the names of its format.
struct Canvas {
    Texture texture;
    Framebuffer framebuffer;
};

Canvas canvas(GLenum format, int size, int levels = 1) {
    Canvas c{make_texture("workload", format, size, size, levels), make_framebuffer("workload")};
    const bool depth = format == GL_DEPTH_COMPONENT32F;
    glNamedFramebufferTexture(c.framebuffer.name(), depth ? GL_DEPTH_ATTACHMENT : GL_COLOR_ATTACHMENT0,
                              c.texture.name(), 0);
    const float value[4] = {0.3f, 0.6f, 0.2f, 0.5f};
    glClearNamedFramebufferfv(c.framebuffer.name(), depth ? GL_DEPTH : GL_COLOR, 0, value);
    return c;
}

class Bench {
public:
    Bench(ProgramCache& programs, GLuint emptyVertexArray) : programs_(programs), vertexArray_(emptyVertexArray) {
        buffer_.reserve(4096);
    }

    Result<std::vector<Plain>> plain() {
        const struct {
            const char* name;
            GLenum format;
            int bytes;
            CostTerm write, blend;
        } formats[] = {{"RGBA8", GL_RGBA8, 4, CostTerm::writeUnorm, CostTerm::count},
                       {"RGBA16F", GL_RGBA16F, 8, CostTerm::writeHalf, CostTerm::blendHalf},
                       {"RGBA32F", GL_RGBA32F, 16, CostTerm::writeFloat, CostTerm::blendFloat}};
        for (const auto& f : formats)
            for (const int size : {256, 1024}) {
                const double pixels = double(size) * size;
                const GLuint target = keep(canvas(f.format, size)).framebuffer.name();
                fragment_work(std::string("fill ") + f.name + " " + std::to_string(size), 0, 0, target, size, 0, false,
                              terms({{CostTerm::draw, 1}, {CostTerm::fragment, pixels}, {f.write, pixels * f.bytes}}));
                if (f.blend != CostTerm::count)
                    fragment_work(
                        std::string("blend ") + f.name + " " + std::to_string(size), 0, 0, target, size, 0, true,
                        terms({{CostTerm::draw, 1}, {CostTerm::fragment, pixels}, {f.blend, pixels * f.bytes}}));
                add(std::string("clear ") + f.name + " " + std::to_string(size),
                    terms({{CostTerm::clear, pixels * f.bytes}}), [target] {
                        const float zero[4] = {};
                        glClearNamedFramebufferfv(target, GL_COLOR, 0, zero);
                    });
            }
        // Depth, and copies of it.
        {
            const double pixels = 1024.0 * 1024;
            const Canvas &a = keep(canvas(GL_DEPTH_COMPONENT32F, 1024)), &b = keep(canvas(GL_DEPTH_COMPONENT32F, 1024));
            const GLuint target = a.framebuffer.name(), from = a.texture.name(), to = b.texture.name();
            fragment_work(
                "depth 1024", 0, 0, target, 1024, 0, false,
                terms({{CostTerm::draw, 1}, {CostTerm::fragment, pixels}, {CostTerm::writeDepth, pixels * 4}}));
            add("copy depth 1024", terms({{CostTerm::copy, pixels * 4}}), [from, to] {
                glCopyImageSubData(from, GL_TEXTURE_2D, 0, 0, 0, 0, to, GL_TEXTURE_2D, 0, 0, 0, 0, 1024, 1024, 1);
            });
        }
        // Reads by format and by locality, arithmetic, atomics: into one small target.
        const int size = 256;
        const double pixels = double(size) * size, bytes = pixels * 4;
        const GLuint small = keep(canvas(GL_RGBA8, size)).framebuffer.name();
        const auto base = [&] {
            return terms({{CostTerm::draw, 1}, {CostTerm::fragment, pixels}, {CostTerm::writeUnorm, bytes}});
        };
        const auto with = [&](CostTerm term, double amount) {
            CostTerms t = base();
            t[term] += amount * pixels;
            return t;
        };
        for (const auto& f : formats) {
            const GLuint source = keep(canvas(f.format, 1024)).texture.name();
            for (const int rounds : {4, 16}) {
                fragment_work(std::string("read ") + f.name + " x" + std::to_string(rounds), 1, rounds, small, size,
                              source, false, with(CostTerm::fetch, rounds));
                fragment_work(std::string("read far ") + f.name + " x" + std::to_string(rounds), 2, rounds, small, size,
                              source, false, with(CostTerm::fetch, rounds));
            }
        }
        {
            const Canvas& mips = keep(canvas(GL_RGBA8, 256, 9));
            glGenerateTextureMipmap(mips.texture.name());
            glTextureParameteri(mips.texture.name(), GL_TEXTURE_MIN_FILTER, GL_LINEAR_MIPMAP_LINEAR);
            for (const int rounds : {2, 8})
                fragment_work("filtered read x" + std::to_string(rounds), 3, rounds, small, size, mips.texture.name(),
                              false, with(CostTerm::filteredRead, rounds));
        }
        for (const int rounds : {32, 128})
            fragment_work("arithmetic x" + std::to_string(rounds), 4, rounds, small, size, 0, false,
                          with(CostTerm::operation, rounds));
        for (const int rounds : {1, 4})
            fragment_work("atomics x" + std::to_string(rounds), 5, rounds, small, size, 0, false,
                          with(CostTerm::atomic, rounds));
        for (const int lanes : {8, 64}) {
            auto program = programs_.get_compute("workload_compute.glsl", {"LANES " + std::to_string(lanes)});
            if (!program) return tl::unexpected(program.error());
            for (const int groups : {1024, 8192})
                add("dispatch of " + std::to_string(groups) + " groups of " + std::to_string(lanes),
                    terms({{CostTerm::group, double(groups)}}), [this, p = *program, groups] {
                        glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 7, buffer_.name());
                        glUseProgram(p);
                        glDispatchCompute(static_cast<GLuint>(groups), 1, 1);
                    });
        }
        for (const int draws : {200, 2000})
            vertex_work(std::to_string(draws) + " draws", "OUTSIDE", draws, 1, small, size,
                        terms({{CostTerm::draw, double(draws)},
                               {CostTerm::vertex, 3.0 * draws},
                               {CostTerm::triangle, double(draws)}}));
        for (const int triangles : {20000, 100000}) {
            vertex_work(std::to_string(triangles) + " triangles outside", "OUTSIDE", 1, triangles, small, size,
                        terms({{CostTerm::draw, 1}, {CostTerm::vertex, 3.0 * triangles}}));
            const double half = 0.5 * 0.64 * pixels; // each covers half of 1.6 x 1.6 tenths of its place
            vertex_work(std::to_string(triangles) + " small triangles", "SMALL", 1, triangles, small, size,
                        terms({{CostTerm::draw, 1},
                               {CostTerm::vertex, 3.0 * triangles},
                               {CostTerm::triangle, double(triangles)},
                               {CostTerm::fragment, half},
                               {CostTerm::writeUnorm, half * 4}}));
        }
        add("nothing", terms({}), [] {});
        if (failure_) return tl::unexpected(*failure_);
        return std::move(plain_);
    }

private:
    const Canvas& keep(Canvas c) {
        canvases_.push_back(std::make_unique<Canvas>(std::move(c)));
        return *canvases_.back();
    }
    void add(std::string name, CostTerms t, std::function<void()> run) {
        plain_.push_back({std::move(name), t, std::move(run)});
    }

    Result<GLuint> program(const std::vector<std::string>& vertex, int work) {
        std::vector<std::string> defines = vertex;
        defines.push_back("WORK " + std::to_string(work));
        return programs_.get("workload_vertex.glsl", "workload_fragment.glsl", defines);
    }

    void begin(GLuint framebuffer, int size, bool blend) {
        glBindFramebuffer(GL_FRAMEBUFFER, framebuffer);
        glViewport(0, 0, size, size);
        glDisable(GL_STENCIL_TEST);
        glDisable(GL_SCISSOR_TEST);
        glDisable(GL_CULL_FACE);
        glEnable(GL_DEPTH_TEST); // without a depth attachment it passes; with one it lets all through
        glDepthFunc(GL_ALWAYS);
        glDepthMask(GL_TRUE);
        if (blend)
            glEnable(GL_BLEND);
        else
            glDisable(GL_BLEND);
        glBlendFunc(GL_ONE, GL_ONE_MINUS_SRC_ALPHA);
        glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 7, buffer_.name());
        glBindVertexArray(vertexArray_);
    }

    void fragment_work(std::string name, int work, int rounds, GLuint target, int size, GLuint source, bool blend,
                       CostTerms t) {
        auto p = program({}, work);
        if (!p) {
            failure_ = p.error();
            return;
        }
        add(std::move(name), t, [this, p = *p, rounds, target, size, source, blend] {
            begin(target, size, blend);
            place(p);
            glProgramUniform1i(p, 0, rounds);
            if (source) glBindTextureUnit(0, source);
            glDrawArrays(GL_TRIANGLES, 0, 3);
            glDisable(GL_BLEND);
        });
    }

    void vertex_work(std::string name, const char* define, int draws, int triangles, GLuint target, int size,
                     CostTerms t) {
        auto p = program({define}, 0);
        if (!p) {
            failure_ = p.error();
            return;
        }
        add(std::move(name), t, [this, p = *p, draws, triangles, target, size] {
            begin(target, size, false);
            place(p);
            glProgramUniform1i(p, 2, std::max(1, static_cast<int>(std::sqrt(static_cast<double>(triangles)))));
            for (int d = 0; d < draws; ++d) {
                glProgramUniform1i(p, 0, d);
                glDrawArrays(GL_TRIANGLES, 0, 3 * triangles);
            }
        });
    }

    void place(GLuint p) {
        const glm::mat4 one(1.0f);
        glProgramUniformMatrix4fv(p, 1, 1, GL_FALSE, &one[0].x);
        glUseProgram(p);
    }

    ProgramCache& programs_;
    GLuint vertexArray_;
    Buffer buffer_{"workload counters"};
    std::vector<std::unique_ptr<Canvas>> canvases_;
    std::vector<Plain> plain_;
    std::optional<Error> failure_;
};

/// A frame of a made-up scene; every pass of it is a workload.
struct FrameCase {
    std::string name;
    Scene scene;
    Setup setup;
    View view;
};

std::vector<FrameCase> frame_cases() {
    using Values = std::vector<std::pair<const char*, const char*>>;
    std::vector<FrameCase> out;
    const auto add = [&](const AbstractScene& a, int width, int height, const std::vector<Light>& lights,
                         const char* lightsName, const Values& values) {
        FrameCase c;
        c.scene = a.scene;
        c.scene.lights = lights;
        c.view.camera = a.camera;
        c.view.width = width;
        c.view.height = height;
        c.name = a.name + ", " + lightsName;
        for (const auto& [key, value] : values) {
            (void)c.setup.set_text(key, value);
            c.name += std::string(", ") + value;
        }
        out.push_back(std::move(c));
    };
    const AbstractScene plain = wall(0), textured = wall(3), many = crowd(700), fine = mesh(60000), coarse = mesh(4000),
                        glass = panes(5);
    const std::vector<Light> none, all4 = strewn_lights(4, plain.scene.asset->bounds, 60, 21),
                                   idle48 = strewn_lights(48, plain.scene.asset->bounds, 1.1f, 22);
    Box low = many.scene.asset->bounds;
    low.high.y = 3;
    const std::vector<Light> spread48 = strewn_lights(48, low, 7, 23), spread200 = strewn_lights(200, low, 4, 24);
    for (const int width : {320, 800}) {
        const int height = width * 9 / 16;
        add(plain, width, height, none, "no lights", {{"path.kind", "forward"}});
        add(textured, width, height, none, "no lights", {{"path.kind", "deferred"}});
        add(fine, width, height, none, "no lights", {{"path.kind", "forward"}});
        add(many, width, height, spread48, "48 lights", {{"path.kind", "tiled-deferred"}});
        add(many, width, height, spread48, "48 lights", {{"path.kind", "forward"}});
        add(many, width, height, spread200, "200 lights", {{"path.kind", "clustered-deferred"}});
    }
    for (const char* model : {"lambert", "phong", "blinn-phong", "ggx"}) {
        add(plain, 512, 288, all4, "4 lights", {{"path.kind", "forward"}, {"shading.model", model}});
        add(plain, 512, 288, all4, "4 lights", {{"path.kind", "deferred"}, {"shading.model", model}});
    }
    add(plain, 320, 180, idle48, "48 small lights", {{"path.kind", "deferred"}});
    add(plain, 320, 180, idle48, "48 small lights", {{"path.kind", "forward"}, {"path.maxLights", "64"}});
    add(plain, 320, 180, strewn_lights(24, plain.scene.asset->bounds, 9, 27), "24 middling lights",
        {{"path.kind", "forward"}, {"path.maxLights", "64"}});
    add(plain, 320, 180, strewn_lights(24, plain.scene.asset->bounds, 9, 27), "24 middling lights",
        {{"path.kind", "tiled-deferred"}});
    add(plain, 320, 180, strewn_lights(24, plain.scene.asset->bounds, 60, 27), "24 large lights",
        {{"path.kind", "tiled-forward"}, {"shading.model", "lambert"}});
    add(textured, 512, 288, all4, "4 lights", {{"path.kind", "additive"}});
    add(textured, 512, 288, none, "no lights",
        {{"path.kind", "deferred"}, {"gbuffer.packing", "full"}, {"path.targetFormat", "rgba32f"}});
    add(textured, 512, 288, all4, "4 lights", {{"path.kind", "forward"}, {"path.targetFormat", "rgba32f"}});
    add(coarse, 512, 288, none, "no lights", {{"path.kind", "forward"}, {"path.depthPrepass", "on"}});
    add(glass, 512, 288, all4, "4 lights", {{"path.kind", "forward"}});
    add(glass, 512, 288, all4, "4 lights", {{"path.kind", "forward"}, {"transparency.kind", "peeled"}});
    add(glass, 512, 288, all4, "4 lights", {{"path.kind", "tiled-deferred"}});
    add(many, 400, 225, spread48, "48 lights", {{"path.kind", "additive"}});
    add(many, 400, 225, spread48, "48 lights", {{"path.kind", "deferred"}});
    add(many, 400, 225, spread48, "48 lights", {{"path.kind", "volumes"}});
    add(many, 400, 225, spread48, "48 lights", {{"path.kind", "volumes"}, {"volumes.form", "one-step"}});
    add(many, 400, 225, spread200, "200 lights", {{"path.kind", "forward"}, {"path.maxLights", "32"}});
    for (const auto& [count, range] : {std::pair(60, 14.0f), std::pair(120, 9.0f), std::pair(500, 2.5f)})
        for (const char* path : {"tiled-deferred", "clustered-forward"})
            for (const char* tile : {"8", "16"})
                add(many, 480, 270, strewn_lights(count, low, range, 25), (std::to_string(count) + " lights").c_str(),
                    {{"path.kind", path}, {"culling.tile", tile}});
    for (const char* tile : {"8", "16", "32"}) {
        add(many, 640, 360, spread200, "200 lights", {{"path.kind", "tiled-deferred"}, {"culling.tile", tile}});
        add(many, 640, 360, spread200, "200 lights", {{"path.kind", "clustered-forward"}, {"culling.tile", tile}});
    }
    add(many, 640, 360, spread200, "200 lights",
        {{"path.kind", "tiled-forward"}, {"culling.depthBounds", "off"}, {"culling.coneTest", "off"}});
    add(many, 640, 360, spread200, "200 lights",
        {{"path.kind", "tiled-forward"}, {"culling.depthBounds", "min-max"}, {"shading.model", "lambert"}});
    add(many, 640, 360, spread200, "200 lights",
        {{"path.kind", "clustered-deferred"}, {"culling.depthBounds", "off"}, {"cluster.slices", "12"}});
    return out;
}

} // namespace

Result<std::vector<Workload>> Session::calibrate(int sweeps) {
    context_->make_current();
    held_.reset();
    Bench bench(programs_, empty_.name());
    auto plain = bench.plain();
    if (!plain) return tl::unexpected(plain.error());
    const std::vector<FrameCase> cases = frame_cases();
    std::vector<Workload> out;
    std::vector<std::vector<double>> samples;
    for (const Plain& p : *plain)
        out.push_back({p.name, 0, p.terms});
    std::vector<std::size_t> firstPass;
    for (const FrameCase& c : cases) {
        RenderOptions o;
        o.picture = false;
        o.fencedSamples = 0;
        o.count = true;
        auto record = render(c.scene, c.setup, c.view, o);
        if (!record) return tl::unexpected(record.error());
        const FramePlan plan = plan_frame(c.scene, c.setup, c.view);
        firstPass.push_back(out.size());
        for (std::size_t i = 0; i < plan.passes.size(); ++i)
            out.push_back({c.name + ": " + plan.passes[i].name, 0,
                           terms_of(plan.passes[i], record->passes[i].work, c.setup, c.view)});
        if (alive_) alive_();
    }
    samples.resize(out.size());
    const std::shared_ptr<const SceneAsset> none;
    for (int sweep = -1; sweep < sweeps; ++sweep) { // the first only warms up
        for (std::size_t i = 0; i < plain->size(); ++i) {
            const double ms = fenced_ms((*plain)[i].run);
            if (sweep >= 0) samples[i].push_back(ms);
            if (alive_) alive_();
        }
        for (std::size_t k = 0; k < cases.size(); ++k) {
            RenderOptions o;
            o.picture = false;
            o.fencedSamples = 2; // the first after another scene meets cold caches
            auto record = render(cases[k].scene, cases[k].setup, cases[k].view, o);
            if (!record) return tl::unexpected(record.error());
            if (sweep < 0) continue;
            for (std::size_t i = 0; i < record->passes.size(); ++i)
                samples[firstPass[k] + i].push_back(record->passes[i].ms.back());
        }
    }
    for (std::size_t i = 0; i < out.size(); ++i)
        out[i].ms = median(samples[i]);
    if (auto ok = check("calibration"); !ok) return tl::unexpected(ok.error());
    return out;
}

} // namespace mirolux::gpu

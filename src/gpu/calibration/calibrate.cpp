#include "core/cost/device_profile.h"
#include "gpu/calibration/frame_cases.h"
#include "gpu/frame/clock.h"
#include "gpu/frame/session.h"
#include "gpu/passes/pass_state.h"

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

CostTerms terms(std::initializer_list<std::pair<const char*, double>> list) {
    CostTerms t;
    t["run"] = 1;
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
        target_work();
        depth_work();
        read_work();
        group_work();
        geometry_work();
        add("nothing", terms({}), [] {});
        if (failure_) return tl::unexpected(*failure_);
        return std::move(plain_);
    }

private:
    /// Formats of colour targets with what writing and blending them is charged as.
    struct Target {
        const char* name;
        GLenum format;
        int bytes;
        const char *write, *blend; // blend: empty where it is not asked for
    };
    static constexpr Target formats[] = {{"RGBA8", GL_RGBA8, 4, "writeUnorm", ""},
                                         {"RGBA16F", GL_RGBA16F, 8, "writeHalf", "blendHalf"},
                                         {"RGBA32F", GL_RGBA32F, 16, "writeFloat", "blendFloat"}};
    static constexpr int smallSize = 256;

    void target_work() {
        for (const auto& f : formats)
            for (const int size : {256, 1024}) {
                const double pixels = double(size) * size;
                const GLuint target = keep(canvas(f.format, size)).framebuffer.name();
                fragment_work(std::string("fill ") + f.name + " " + std::to_string(size), 0, 0, target, size, 0, false,
                              terms({{"draw", 1}, {"fragment", pixels}, {f.write, pixels * f.bytes}}));
                if (*f.blend)
                    fragment_work(std::string("blend ") + f.name + " " + std::to_string(size), 0, 0, target, size, 0,
                                  true, terms({{"draw", 1}, {"fragment", pixels}, {f.blend, pixels * f.bytes}}));
                add(std::string("clear ") + f.name + " " + std::to_string(size), terms({{"clear", pixels * f.bytes}}),
                    [target] {
                        const float zero[4] = {};
                        glClearNamedFramebufferfv(target, GL_COLOR, 0, zero);
                    });
            }
    }

    /// Depth, and copies of it.
    void depth_work() {
        const double pixels = 1024.0 * 1024;
        const Canvas &a = keep(canvas(GL_DEPTH_COMPONENT32F, 1024)), &b = keep(canvas(GL_DEPTH_COMPONENT32F, 1024));
        const GLuint target = a.framebuffer.name(), from = a.texture.name(), to = b.texture.name();
        fragment_work("depth 1024", 0, 0, target, 1024, 0, false,
                      terms({{"draw", 1}, {"fragment", pixels}, {"writeDepth", pixels * 4}}));
        add("copy depth 1024", terms({{"copy", pixels * 4}}), [from, to] {
            glCopyImageSubData(from, GL_TEXTURE_2D, 0, 0, 0, 0, to, GL_TEXTURE_2D, 0, 0, 0, 0, 1024, 1024, 1);
        });
    }

    /// Reads by format and by locality, arithmetic, atomics: into one small target.
    void read_work() {
        const int size = smallSize;
        const double pixels = double(size) * size, bytes = pixels * 4;
        const GLuint small = small_target();
        const auto base = [&] { return terms({{"draw", 1}, {"fragment", pixels}, {"writeUnorm", bytes}}); };
        const auto with = [&](const char* term, double amount) {
            CostTerms t = base();
            t[term] += amount * pixels;
            return t;
        };
        for (const auto& f : formats) {
            const GLuint source = keep(canvas(f.format, 1024)).texture.name();
            for (const int rounds : {4, 16}) {
                fragment_work(std::string("read ") + f.name + " x" + std::to_string(rounds), 1, rounds, small, size,
                              source, false, with("fetch", rounds));
                fragment_work(std::string("read far ") + f.name + " x" + std::to_string(rounds), 2, rounds, small, size,
                              source, false, with("fetch", rounds));
            }
        }
        {
            const Canvas& mips = keep(canvas(GL_RGBA8, 256, 9));
            glGenerateTextureMipmap(mips.texture.name());
            glTextureParameteri(mips.texture.name(), GL_TEXTURE_MIN_FILTER, GL_LINEAR_MIPMAP_LINEAR);
            for (const int rounds : {2, 8})
                fragment_work("filtered read x" + std::to_string(rounds), 3, rounds, small, size, mips.texture.name(),
                              false, with("filteredRead", rounds));
        }
        for (const int rounds : {32, 128})
            fragment_work("arithmetic x" + std::to_string(rounds), 4, rounds, small, size, 0, false,
                          with("operation", rounds));
        for (const int rounds : {1, 4})
            fragment_work("atomics x" + std::to_string(rounds), 5, rounds, small, size, 0, false,
                          with("atomic", rounds));
    }

    void group_work() {
        for (const int lanes : {8, 64}) {
            auto program = programs_.get({{GL_COMPUTE_SHADER, "calibration/compute.glsl", ""}},
                                         {"LANES " + std::to_string(lanes)});
            if (!program) {
                failure_ = program.error();
                return;
            }
            for (const int groups : {1024, 8192})
                add("dispatch of " + std::to_string(groups) + " groups of " + std::to_string(lanes),
                    terms({{"group", double(groups)}}), [this, p = *program, groups] {
                        use(*p);
                        glDispatchCompute(static_cast<GLuint>(groups), 1, 1);
                    });
        }
    }

    void geometry_work() {
        const int size = smallSize;
        const double pixels = double(size) * size;
        const GLuint small = small_target();
        for (const int draws : {200, 2000})
            vertex_work(std::to_string(draws) + " draws", "OUTSIDE", draws, 1, small, size,
                        terms({{"draw", double(draws)}, {"vertex", 3.0 * draws}, {"triangle", double(draws)}}));
        for (const int triangles : {20000, 100000}) {
            vertex_work(std::to_string(triangles) + " triangles outside", "OUTSIDE", 1, triangles, small, size,
                        terms({{"draw", 1}, {"vertex", 3.0 * triangles}}));
            const double half = 0.5 * 0.64 * pixels; // each covers half of 1.6 x 1.6 tenths of its place
            vertex_work(std::to_string(triangles) + " small triangles", "SMALL", 1, triangles, small, size,
                        terms({{"draw", 1},
                               {"vertex", 3.0 * triangles},
                               {"triangle", double(triangles)},
                               {"fragment", half},
                               {"writeUnorm", half * 4}}));
        }
    }

    GLuint small_target() { return keep(canvas(GL_RGBA8, smallSize)).framebuffer.name(); }
    const Canvas& keep(Canvas c) {
        canvases_.push_back(std::make_unique<Canvas>(std::move(c)));
        return *canvases_.back();
    }
    void add(std::string name, CostTerms t, std::function<void()> run) {
        plain_.push_back({std::move(name), t, std::move(run)});
    }

    Result<ProgramPtr> program(const std::vector<std::string>& vertex, int work) {
        std::vector<std::string> defines = vertex;
        defines.push_back("WORK " + std::to_string(work));
        return programs_.get(
            {{GL_VERTEX_SHADER, "calibration/vertex.glsl", ""}, {GL_FRAGMENT_SHADER, "calibration/fragment.glsl", ""}},
            defines);
    }

    /// Makes the program current, with the counters that it may write.
    void use(const BuiltProgram& p) const {
        for (const auto& [block, point] : p.blocks)
            glBindBufferBase(GL_SHADER_STORAGE_BUFFER, point, buffer_.name());
        glUseProgram(p.name());
    }

    void begin(const BuiltProgram& p, GLuint framebuffer, int size, bool blend) const {
        PassState state;
        state.framebuffer = framebuffer;
        state.width = state.height = size;
        state.depthFunc = GL_ALWAYS; // without a depth attachment it passes; with one it lets all through
        state.blend = {blend, GL_ONE, GL_ONE_MINUS_SRC_ALPHA, GL_ONE, GL_ONE_MINUS_SRC_ALPHA};
        state.apply();
        use(p);
        const glm::mat4 one(1.0f);
        glProgramUniformMatrix4fv(p.name(), p.uniform("place"), 1, GL_FALSE, &one[0].x);
        glBindVertexArray(vertexArray_);
    }

    void fragment_work(std::string name, int work, int rounds, GLuint target, int size, GLuint source, bool blend,
                       CostTerms t) {
        auto made = program({}, work);
        if (!made) {
            failure_ = made.error();
            return;
        }
        add(std::move(name), t, [this, p = *made, rounds, target, size, source, blend] {
            begin(*p, target, size, blend);
            glProgramUniform1i(p->name(), p->uniform("rounds"), rounds);
            if (source) glBindTextureUnit(p->samplers.at("source"), source);
            glDrawArrays(GL_TRIANGLES, 0, 3);
        });
    }

    void vertex_work(std::string name, const char* define, int draws, int triangles, GLuint target, int size,
                     CostTerms t) {
        auto made = program({define}, 0);
        if (!made) {
            failure_ = made.error();
            return;
        }
        add(std::move(name), t, [this, p = *made, draws, triangles, target, size] {
            begin(*p, target, size, false);
            glProgramUniform1i(p->name(), p->uniform("columns"),
                               std::max(1, static_cast<int>(std::sqrt(static_cast<double>(triangles)))));
            for (int d = 0; d < draws; ++d) {
                glProgramUniform1i(p->name(), p->uniform("rounds"), d);
                glDrawArrays(GL_TRIANGLES, 0, 3 * triangles);
            }
        });
    }

    ProgramCache& programs_;
    GLuint vertexArray_;
    Buffer buffer_{"workload counters"};
    std::vector<std::unique_ptr<Canvas>> canvases_;
    std::vector<Plain> plain_;
    std::optional<Error> failure_;
};

} // namespace

Result<std::vector<Workload>> Session::calibrate(int sweeps) {
    context_->make_current();
    held_.reset();
    vitals_->enter("calibrating");
    programs_.most = 400; // a whole round stays: what is timed is never built anew
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
            out.push_back(
                {c.name + ": " + plan.passes[i].name, 0, price_pass(plan, plan.passes[i], record->passes[i].work)});
        vitals_->beat();
    }
    samples.resize(out.size());
    const std::shared_ptr<const SceneAsset> none;
    for (int sweep = -1; sweep < sweeps; ++sweep) { // the first only warms up
        for (std::size_t i = 0; i < plain->size(); ++i) {
            const double ms = fenced_ms((*plain)[i].run);
            if (sweep >= 0) samples[i].push_back(ms);
            vitals_->beat();
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

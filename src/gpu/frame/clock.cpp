#include "gpu/frame/clock.h"
#include "core/cost/statistics.h"
#include "gpu/passes/pass_state.h"
#include <chrono>
#include <cmath>
#include <fmt/format.h>

namespace mirolux::gpu {

double now_ms() {
    return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

namespace {

/// Known work on a small target, timed by both clocks.
class KnownWork {
public:
    explicit KnownWork(ProgramPtr program) : program_(std::move(program)) {
        glNamedFramebufferTexture(framebuffer_.name(), GL_COLOR_ATTACHMENT0, target_.name(), 0);
        GLuint vao = 0, query = 0;
        glCreateVertexArrays(1, &vao);
        none_ = VertexArray(vao);
        glCreateQueries(GL_TIME_ELAPSED, 1, &query);
        query_ = Query(query);
    }

    /// The least of five after one that is thrown away, since drivers answer nonsense for a first query: what else the
    /// machine does can only add to the work's own time.
    void time(int rounds, double& fenced, double& gpu) {
        std::vector<double> f, g;
        for (int i = 0; i < 6; ++i) {
            f.push_back(fenced_ms([&] {
                glBeginQuery(GL_TIME_ELAPSED, query_.name());
                run(rounds);
                glEndQuery(GL_TIME_ELAPSED);
            }));
            GLuint64 ns = 0;
            glGetQueryObjectui64v(query_.name(), GL_QUERY_RESULT, &ns);
            g.push_back(static_cast<double>(ns) * 1e-6);
        }
        fenced = *std::min_element(f.begin() + 1, f.end());
        gpu = *std::min_element(g.begin() + 1, g.end());
    }

private:
    void run(int rounds) const {
        PassState state;
        state.framebuffer = framebuffer_.name();
        state.width = state.height = size;
        state.depthTest = state.depthWrite = false;
        state.apply();
        glUseProgram(program_->name());
        glProgramUniform1i(program_->name(), program_->uniform("rounds"), rounds);
        glBindVertexArray(none_.name());
        glDrawArrays(GL_TRIANGLES, 0, 3);
    }

    static constexpr int size = 256;
    ProgramPtr program_;
    Texture target_ = make_texture("known work", GL_RGBA8, size, size);
    Framebuffer framebuffer_ = make_framebuffer("known work");
    VertexArray none_;
    Query query_;
};

} // namespace

ClockReport test_clock(ProgramCache& programs, double tolerance) {
    ClockReport report;
    auto program = programs.get(
        {{GL_VERTEX_SHADER, "screen/vertex.glsl", ""}, {GL_FRAGMENT_SHADER, "clock/known_work.glsl", ""}}, {});
    if (!program) {
        report.verdict = "The GPU clock was not tested: " + to_text(program.error());
        return report;
    }
    KnownWork work(*program);
    // Enough rounds that the small work takes a few milliseconds on this device.
    int rounds = 8;
    for (double fenced = 0, gpu = 0; rounds < (1 << 20); rounds *= 4) {
        work.time(rounds, fenced, gpu);
        if (fenced > 2.0) break;
    }
    work.time(rounds, report.fencedSmallMs, report.gpuSmallMs);
    work.time(rounds * 4, report.fencedLargeMs, report.gpuLargeMs);
    const double growth = report.gpuSmallMs > 0 ? report.gpuLargeMs / report.gpuSmallMs : 0;
    auto agrees = [&](double a, double b) { return std::abs(a - b) <= tolerance * std::max(a, b); };
    report.gpuAccepted = growth > 2.0 && agrees(report.gpuSmallMs, report.fencedSmallMs) &&
                         agrees(report.gpuLargeMs, report.fencedLargeMs);
    const std::string text = fmt::format(
        "GPU clock {}: known work of 1x and 4x took {:.2f} and {:.2f} ms fenced, {:.2f} and {:.2f} ms by its "
        "readings (tolerance {:.0f} %)",
        report.gpuAccepted ? "accepted" : "refused", report.fencedSmallMs, report.fencedLargeMs, report.gpuSmallMs,
        report.gpuLargeMs, tolerance * 100);
    report.verdict = text;
    return report;
}

} // namespace mirolux::gpu

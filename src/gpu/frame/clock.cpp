#include "gpu/frame/clock.h"
#include "core/cost/statistics.h"
#include <chrono>
#include <cmath>

namespace mirolux::gpu {

double now_ms() {
    return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

ClockReport test_clock(const ShaderLibrary& library, double tolerance) {
    ClockReport report;
    auto program = build_program(
        library, {{GL_VERTEX_SHADER, "screen_vertex.glsl", ""}, {GL_FRAGMENT_SHADER, "known_work_fragment.glsl", ""}},
        {});
    if (!program) {
        report.verdict = "The GPU clock was not tested: " + to_text(program.error());
        return report;
    }
    const int size = 256;
    const Texture target = make_texture("known work", GL_RGBA8, size, size);
    const Framebuffer framebuffer = make_framebuffer("known work");
    glNamedFramebufferTexture(framebuffer.name(), GL_COLOR_ATTACHMENT0, target.name(), 0);
    GLuint vao = 0, queryName = 0;
    glCreateVertexArrays(1, &vao);
    const VertexArray none(vao);
    glCreateQueries(GL_TIME_ELAPSED, 1, &queryName);
    const Query query(queryName);
    auto work = [&](int rounds) {
        glBindFramebuffer(GL_FRAMEBUFFER, framebuffer.name());
        glViewport(0, 0, size, size);
        glDisable(GL_DEPTH_TEST);
        glDisable(GL_BLEND);
        glDisable(GL_STENCIL_TEST);
        glUseProgram(program->name());
        glProgramUniform1i(program->name(), 0, rounds);
        glBindVertexArray(none.name());
        glDrawArrays(GL_TRIANGLES, 0, 3);
    };
    auto timed = [&](int rounds, double& fenced, double& gpu) {
        std::vector<double> f, g;
        for (int i = 0; i < 4; ++i) {
            f.push_back(fenced_ms([&] {
                glBeginQuery(GL_TIME_ELAPSED, query.name());
                work(rounds);
                glEndQuery(GL_TIME_ELAPSED);
            }));
            GLuint64 ns = 0;
            glGetQueryObjectui64v(query.name(), GL_QUERY_RESULT, &ns);
            g.push_back(static_cast<double>(ns) * 1e-6);
        }
        f.erase(f.begin());
        g.erase(g.begin());
        fenced = median(f);
        gpu = median(g);
    };
    // Enough rounds that the small work takes a few milliseconds on this device.
    int rounds = 8;
    double fenced = 0, gpu = 0;
    for (; rounds < (1 << 20); rounds *= 4) {
        timed(rounds, fenced, gpu);
        if (fenced > 2.0) break;
    }
    timed(rounds, report.fencedSmallMs, report.gpuSmallMs);
    timed(rounds * 4, report.fencedLargeMs, report.gpuLargeMs);
    const double growth = report.gpuSmallMs > 0 ? report.gpuLargeMs / report.gpuSmallMs : 0;
    auto agrees = [&](double a, double b) { return std::abs(a - b) <= tolerance * std::max(a, b); };
    report.gpuAccepted = growth > 2.0 && agrees(report.gpuSmallMs, report.fencedSmallMs) &&
                         agrees(report.gpuLargeMs, report.fencedLargeMs);
    char text[240];
    std::snprintf(text, sizeof text,
                  "GPU clock %s: known work of 1x and 4x took %.2f and %.2f ms fenced, %.2f and %.2f ms by its "
                  "readings (tolerance %.0f %%)",
                  report.gpuAccepted ? "accepted" : "refused", report.fencedSmallMs, report.fencedLargeMs,
                  report.gpuSmallMs, report.gpuLargeMs, tolerance * 100);
    report.verdict = text;
    return report;
}

} // namespace mirolux::gpu

#include "core/technique/plan_builder.h"
#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

// A made-up technique with history: half of last frame's picture stays in this one's. It is added beside those of the
// registry, as passes that users write will be.
namespace {

void plan_echo(const FrameInputs&, PlanBuilder& b) {
    b.resource({.name = "echo", .sampler = "echo", .format = Format::rgba32f, .life = Life::history});
    b.pass({.name = "echo",
            .family = "finish",
            .what = "Mixes the scene with last frame's.",
            .reads = {"scene"},
            .writes = {"echo"}});
    b.settles(12, 8);
}
const Technique echo{.name = "test_echo", .layers = {}, .plan = plan_echo};

Result<gpu::Commands> prepare_echo(gpu::PassFrame& f, const PlannedPass&) {
    auto stage = f.stage({{GL_VERTEX_SHADER, "screen/vertex.glsl", ""},
                          {GL_FRAGMENT_SHADER, "echo.glsl",
                           "#version 450 core\n#include \"include/structs.glsl\"\nuniform sampler2D "
                           "sceneTexture;\nuniform sampler2D echoPrevious;\n"
                           "layout(location = 0) out vec4 o;\nvoid main() {\n    ivec2 p = ivec2(gl_FragCoord.xy);\n"
                           "    o = vec4(0.5 * texelFetch(sceneTexture, p, 0).rgb + 0.5 * texelFetch(echoPrevious, p, "
                           "0).rgb, frame.time.y);\n}\n"}},
                         {});
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state({"echo"});
    if (!state) return tl::unexpected(state.error());
    return [&f, stage = std::move(*stage), state = *state] { f.draw_screen(stage, state); };
}
const gpu::GpuTechnique echoSide{prepare_echo};

/// A session of its own with the technique, and what it holds after a request.
struct Echo {
    std::unique_ptr<gpu::Session> session;
    Echo() {
        auto made = gpu::Session::create();
        if (!made) qFatal("%s", to_text(made.error()).c_str());
        session = std::move(*made);
        session->add(echo, echoSide);
    }
    /// Radiance of the scene and of the echo at the middle pixel, and the frame's index.
    std::vector<float> after(const Scene& scene, const View& view, int frames = 0, const Setup& setup = {}) {
        RenderOptions o;
        o.picture = false;
        o.fencedSamples = 0;
        o.frames = frames;
        o.targets = {{"echo"}};
        const auto r = session->render(scene, setup, view, o);
        if (!r) qFatal("%s", to_text(r.error()).c_str());
        const FloatImage& image = r->targets.front();
        return image.data;
    }
};

Scene lit(float level) {
    SceneAsset a;
    return Scene{finished(std::move(a)), {}, {}, {glm::vec3(level), glm::vec3(level)}};
}

} // namespace

class history_test : public QObject {
    Q_OBJECT
private slots:
    void history_is_last_frames_content_and_settles_from_a_reset() {
        Echo e;
        const Scene scene = lit(1.0f);
        const View view = view_from({0, 1, 0}, {0, 1, -1}, 8, 4);
        // After n frames from black: 1 - 2^-n.
        for (const int n : {1, 2, 3, 7}) {
            const auto pixel = e.after(scene, view, n);
            QVERIFY2(std::abs(pixel[0] - (1.0f - std::pow(0.5f, float(n)))) < 1e-3f,
                     qPrintable(QString("%1 frames: %2").arg(n).arg(pixel[0])));
            QCOMPARE(pixel[3], float(n - 1));
        }
        // The next request goes on; plain requests after a cut are settled.
        QVERIFY(std::abs(e.after(scene, view)[0] - (1.0f - std::pow(0.5f, 8.0f))) < 1e-3f);
        View other = view;
        other.camera.name = "another";
        const auto settled = e.after(scene, other);
        QCOMPARE(settled[3], 11.0f);
        QVERIFY(std::abs(settled[0] - (1.0f - std::pow(0.5f, 12.0f))) < 1e-3f);
    }

    void a_new_size_resets_it() {
        Echo e;
        const Scene scene = lit(1.0f);
        View view = view_from({0, 1, 0}, {0, 1, -1}, 8, 4);
        (void)e.after(scene, view, 30);
        view.width = 10;
        QCOMPARE(e.after(scene, view)[3], 11.0f); // settled anew, from black
        view.width = 8;
        QCOMPARE(e.after(scene, view)[3], 11.0f);
    }

    /// As lights come into view the room for their lists grows: other memory, the same history.
    void history_goes_on_when_lights_come_into_view() {
        Echo e;
        const Scene scene = random_scene(4, 40);
        Setup tiled;
        QVERIFY(tiled.set("path.kind", std::string("tiled-deferred")).has_value());
        const View near = view_from({4, 1, 6}, {0, 1, 0}, 64, 36), far = view_from({9, 6, 14}, {0, 1, 0}, 64, 36);
        QVERIFY(plan_frame(scene, tiled, near).bytesSum != plan_frame(scene, tiled, far).bytesSum);
        const float first = e.after(scene, near, 3, tiled)[3];
        QCOMPARE(first, 2.0f);
        QCOMPARE(e.after(scene, far, 0, tiled)[3], 3.0f);
        const auto there = e.after(scene, far, 0, tiled), back = e.after(scene, near, 0, tiled);
        QCOMPARE(there[3], 4.0f);
        QCOMPARE(back[3], 5.0f);
        // Half of what stands there comes from the frame before, which looked from elsewhere.
        Echo other;
        QVERIFY(other.after(scene, near, 6, tiled) != back);
    }

    void the_same_sequence_gives_the_same_bits() {
        const Scene scene = random_scene(6, 20);
        View view = view_from({9, 5, 13}, {0, 1, 0}, 64, 36);
        std::vector<std::vector<float>> first, second;
        for (auto* run : {&first, &second}) {
            Echo e;
            run->push_back(e.after(scene, view, 5));
            view.seconds = 0.5;
            run->push_back(e.after(scene, view));
            run->push_back(e.after(scene, view));
            view.camera.eye.x += 1;
            run->push_back(e.after(scene, view));
            view.camera.eye.x -= 1;
            view.seconds = 0;
        }
        QVERIFY(first == second);
        QVERIFY(first[1] != first[2]); // history moves on
    }
};

MIROLUX_TEST(history_test)
#include "history_test.moc"

#include "core/path/path_kind.h"
#include "core/technique/plan_builder.h"
#include "gpu/gl/formats.h"
#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

// A made-up technique whose targets hold values that are known without drawing: mips, a stencil, a buffer.
namespace {

void plan_known(const FrameInputs&, PlanBuilder& b) {
    b.resource({.name = "levels", .format = Format::rg32f, .mips = 3});
    b.resource({.name = "marks", .format = Format::depth32fStencil8});
    b.resource({.name = "numbers", .format = Format::words, .entries = 1500});
    b.pass({.name = "known one", .family = "finish", .what = "Fills.", .writes = {"levels", "marks", "numbers"}});
    b.pass({.name = "known two", .family = "finish", .what = "Fills again.", .reads = {"marks"}, .writes = {"levels"}});
}
const Technique known{.name = "test_known", .layers = {}, .plan = plan_known};

Result<gpu::Commands> prepare_known(gpu::PassFrame& f, const PlannedPass& pass) {
    const float base = (pass.name == "known two" ? 100.0f : 0.0f) + 10.0f * static_cast<float>(f.eye);
    const bool first = pass.name == "known one";
    auto marks = f.framebuffer({}, "marks");
    if (!marks) return tl::unexpected(marks.error());
    return [levels = f.texture("levels"), marks = *marks, buffer = f.resources.buffer("numbers"), base, first] {
        for (int level = 0; level < 3; ++level) {
            const float value[4] = {base + static_cast<float>(level), -1.0f, 0, 0};
            glClearTexImage(levels, level, GL_RG, GL_FLOAT, value);
        }
        if (!first) return;
        glStencilMask(0xFF);
        glDepthMask(GL_TRUE);
        glDisable(GL_SCISSOR_TEST);
        glClearNamedFramebufferfi(marks, GL_DEPTH_STENCIL, 0, 0.5f, 7);
        const GLuint number = 70000;
        glClearNamedBufferData(buffer, GL_R32UI, GL_RED_INTEGER, GL_UNSIGNED_INT, &number);
    };
}
const gpu::GpuTechnique knownSide{prepare_known};

RenderOptions reading(std::vector<TargetRead> targets) {
    RenderOptions o;
    o.picture = false;
    o.fencedSamples = 0;
    o.targets = std::move(targets);
    return o;
}

FrameRecord answered(gpu::Session& s, const Scene& scene, const Setup& setup, const View& view,
                     const RenderOptions& o) {
    auto r = s.render(scene, setup, view, o);
    if (!r) qFatal("%s", to_text(r.error()).c_str());
    return std::move(*r);
}

} // namespace

/// Any target of a frame, between any two passes.
class target_test : public QObject {
    Q_OBJECT
private slots:
    void every_target_of_every_path_comes_back_whole() {
        const Scene scene = random_scene(4, 12);
        View view = view_from({8, 4, 12}, {0, 1, 0}, 64, 36);
        for (const Stereo stereo : {Stereo::off, Stereo::twoPasses, Stereo::onePass})
            for (const std::string& path : path_words([](const PathKind&) { return true; })) {
                view.stereo = stereo;
                const Setup s = setup_with({{"path.kind", path}, {"transparency.kind", "peeled"}});
                const FramePlan plan = plan_frame(scene, s, view);
                std::vector<TargetRead> wanted;
                for (const PlannedResource& r : plan.resources)
                    wanted.push_back({r.spec.name, "", r.layers - 1});
                const FrameRecord r = answered(session(), scene, s, view, reading(wanted));
                QCOMPARE(r.targets.size(), wanted.size());
                for (std::size_t i = 0; i < wanted.size(); ++i) {
                    const PlannedResource& p = *plan.resource(wanted[i].target);
                    if (p.spec.entries > 0) continue;
                    QCOMPARE(r.targets[i].width, p.width);
                    QCOMPARE(r.targets[i].height, p.height);
                    QCOMPARE(r.targets[i].data.size(),
                             std::size_t(p.width) * p.height * static_cast<std::size_t>(r.targets[i].channels));
                }
            }
    }

    void a_target_equals_the_layer_that_shows_it() {
        const Scene scene = random_scene(5, 12);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 64, 36);
        for (const std::string& path : path_words([](const PathKind&) { return true; })) {
            const Setup s = setup_with({{"path.kind", path}});
            for (const LayerInfo& layer : all_layers()) {
                if (!belongs(layer.stages, Stage::solid) || layer.resource.empty()) continue;
                if (!plan_frame(scene, s, view).resource(layer.resource)) continue;
                const FloatImage shown = hdr(scene, s, view, layer.name);
                const FrameRecord r = answered(session(), scene, s, view, reading({{layer.resource}}));
                QCOMPARE(r.targets.front().channels, shown.channels);
                QCOMPARE(r.targets.front().data, shown.data);
            }
        }
    }

    /// What a pass leaves is what later ones find: surfaces are done when the sky comes, and the sky is still missing.
    void a_target_is_read_as_a_pass_left_it() {
        const Scene scene = random_scene(5, 12);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 64, 36);
        const Setup s = setup_with({{"path.kind", "forward"}});
        const FrameRecord r = answered(
            session(), scene, s, view,
            reading({{"scene", "opaque"}, {"scene", "sky"}, {"scene"}, {"depth", "opaque"}, {"scene", "opaque"}}));
        QCOMPARE(r.targets[0].data, r.targets[4].data);
        QCOMPARE(r.targets[2].data, hdr(scene, s, view).data);
        int surfaces = 0, sky = 0;
        for (int y = 0; y < 36; ++y)
            for (int x = 0; x < 64; ++x) {
                const float *before = r.targets[0].pixel(x, y), *after = r.targets[1].pixel(x, y);
                if (r.targets[3].pixel(x, y)[0] > 0) {
                    QCOMPARE(before[1], after[1]);
                    ++surfaces;
                } else {
                    QCOMPARE(before[2], 0.0f);
                    QVERIFY(after[2] > 0);
                    ++sky;
                }
            }
        QVERIFY(surfaces > 200 && sky > 50);
    }

    void levels_layers_stencils_and_integers_are_read() {
        auto made = gpu::Session::create();
        QVERIFY(made.has_value());
        (*made)->add(known, knownSide);
        const Scene scene = random_scene(4, 5);
        View view = view_from({8, 4, 12}, {0, 1, 0}, 40, 20);
        view.stereo = Stereo::twoPasses;
        const FrameRecord r = answered(
            **made, scene, Setup(), view,
            reading({{"levels"}, {"levels", "known one", 1, 2}, {"marks", "", 1, 0, true}, {"marks"}, {"numbers"}}));
        QCOMPARE(r.targets[0].pixel(39, 19)[0], 100.0f);
        QCOMPARE(r.targets[0].pixel(39, 19)[1], -1.0f);
        QCOMPARE(r.targets[1].width, 10);
        QCOMPARE(r.targets[1].height, 5);
        QCOMPARE(r.targets[1].channels, 2);
        QCOMPARE(r.targets[1].pixel(9, 4)[0], 12.0f); // the right eye's third level after the first pass
        for (const float mark : r.targets[2].data)
            QCOMPARE(mark, 7.0f);
        QVERIFY(std::abs(r.targets[3].pixel(3, 3)[0] - view.camera.near / 0.5f) < 1e-6f);
        QCOMPARE(r.targets[4].width, 1024);
        QCOMPARE(r.targets[4].height, 2);
        QCOMPARE(r.targets[4].pixel(475, 1)[0], 70000.0f);
        QCOMPARE(r.targets[4].pixel(476, 1)[0], 0.0f); // past the end
    }

    void what_cannot_be_read_is_refused_with_what_there_is() {
        const Scene scene = random_scene(4, 5);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 40, 20);
        const struct {
            TargetRead read;
            const char* hint;
        } cases[] = {{{"nothing"}, "picture"}, {{"scene", "noon"}, "plan"}, {{"picture", "opaque"}, "finish"},
                     {{"scene", "", 1}, "0"},  {{"scene", "", 0, 1}, "0"},  {{"depth", "", 0, 0, true}, "marks"}};
        for (const auto& c : cases) {
            const auto r = session().render(scene, Setup(), view, reading({c.read}));
            QVERIFY2(!r && r.error().remedy.find(c.hint) != std::string::npos, c.hint);
        }
    }

    /// At the picture's own size a thumbnail is the target; the last one is the picture.
    void each_write_has_a_thumbnail() {
        const Scene scene = random_scene(4, 12);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 64, 36);
        const Setup s = setup_with({{"path.kind", "tiled-deferred"}});
        RenderOptions o;
        o.fencedSamples = 0;
        o.writes = true;
        const FrameRecord r = answered(session(), scene, s, view, o);
        std::vector<std::pair<std::string, std::string>> wanted, got;
        for (const FramePlan plan = plan_frame(scene, s, view); const PlannedPass& p : plan.passes)
            for (const std::string& name : p.writes)
                if (plan.resource(name)->spec.entries == 0) wanted.push_back({p.name, name});
        for (const WrittenTarget& w : r.writes)
            got.push_back({w.pass, w.target});
        QCOMPARE(got, wanted);
        const ByteImage& last = r.writes.back().image;
        QCOMPARE(r.writes.back().target, std::string("picture"));
        QCOMPARE(last.width, 64);
        for (std::size_t i = 0; i < last.rgba.size(); ++i)
            if (i % 4 != 3) QCOMPARE(last.rgba[i], r.picture.rgba[i]);
        const FrameRecord again = answered(session(), scene, s, view, o); // the frame after is as before
        QCOMPARE(again.picture.rgba, r.picture.rgba);
    }
};

MIROLUX_TEST(target_test)
#include "target_test.moc"

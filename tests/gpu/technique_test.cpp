#include "core/bake/space_probes.h"
#include "core/path/path_kind.h"
#include "core/scene/object_edit.h"
#include "core/technique/all.h"
#include "session_fixture.h"
#include "support/baked.h"
#include "support/probes.h"
#include "support/rigs.h"
#include <set>

using namespace mirolux;
using namespace mirolux::test;

static FrameRecord rendered(gpu::Session& s, const Scene& scene, const Setup& setup, const View& view,
                            const RenderOptions& o) {
    auto r = s.render(scene, setup, view, o);
    if (!r) qFatal("%s", to_text(r.error()).c_str());
    return std::move(*r);
}

/// The walk through all techniques on the device; the one without a device is core/technique_test.
class technique_test : public QObject {
    Q_OBJECT
    QTemporaryDir folder_; // of captures and bakes

    /// Two rooms, a lamp in the first, with all computed that can be; the setup that reads one of them.
    Setup beforehand(TwoRooms& rooms, const std::string& key, const std::string& word) const {
        rooms.scene.bakes = folder_.path().toStdString();
        rooms.scene.lights = {lamp({2, 2.5f, 2}, 200)};
        const Setup s =
            setup_with({{key.c_str(), word.c_str()}, {"ambient.kind", key == "indirect.kind" ? "none" : "constant"}});
        bake_map(rooms.scene, s, {2, 4, 1});
        bake_whole(ProbeGridBake::begin(rooms.scene, s, {2, 32, 1}));
        bake_whole(MaskBake::begin(rooms.scene, s, {2, 4}));
        bake_whole(OcclusionBake::begin(rooms.scene, s, {2, 16, 1, word == "vertices"}));
        return s;
    }

private slots:
    /// Setups that between them run every pass: each counter moves somewhere, each technique with a device side has a
    /// pass.
    void every_pass_runs_and_every_counter_moves() {
        Scene scene = random_scene(4, 40);
        scene.lights[0].direction = glm::normalize(glm::vec3(0.55f, -0.1f, 0.83f)); // the sun stands in the picture
        add_cheap_lights(scene);
        give_optics(scene);
        scene.probes = {even_probe(folder_)};
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        std::set<std::string> ran, moved;
        RenderOptions o;
        o.picture = false;
        o.fencedSamples = 0;
        o.count = true;
        for (const std::string& path : path_words([](const PathKind&) { return true; }))
            for (const char* kind : {"sorted", "peeled"}) {
                const Setup s =
                    setup_with({{"path.kind", path},
                                {"transparency.kind", kind},
                                {"path.depthPrepass", "on"},
                                {"motion.write", "always"},
                                {"visibility.kind", kind == std::string("peeled") ? "queries" : "depth"},
                                {"shadow.maps", "on"},
                                {"shadow.update", "always"},
                                {"shadow.contact", "on"},
                                {"shadow.resolve", kind == std::string("peeled") ? "half-mask" : "shading"},
                                {"shadow.filter", kind == std::string("peeled") ? "moments" : "bilinear"},
                                {"sky.kind", kind == std::string("peeled") ? "atmosphere" : "colours"},
                                {"sky.update", "always"},
                                {"ambient.kind", kind == std::string("peeled") ? "environment" : "gradient"},
                                {"environment.size", "32"},
                                {"reflection.kind", "screen"},
                                {"probe.kind", "captured"},
                                {"probe.size", "16"},
                                {"reflection.roughest", "1"},
                                {"occlusion.kind", kind == std::string("peeled") ? "horizon" : "none"},
                                {"occlusion.scale", kind == std::string("peeled") ? "half" : "full"},
                                {"environment.update", "always"},
                                {"air.kind", path == "tiled-forward"         ? "froxels"
                                             : kind == std::string("peeled") ? "height"
                                                                             : "uniform"},
                                {"air.lamps", "closed-form"},
                                {"subsurface.kind", "blur"},
                                {"subsurface.thickness", "map"},
                                {"beams.kind", kind == std::string("sorted") ? "mesh" : "none"},
                                {"shafts.kind", "radial"},
                                {"solidLights.kind", "stencil"},
                                {"viewLights.kind", "ramp"},
                                {"exposure.kind", "metered"},
                                {"bloom.kind", kind == std::string("peeled") ? "chain" : "threshold"},
                                {"bloom.threshold", "0.1"},
                                {"exposure.meter", "histogram"},
                                {"edges.kind", kind == std::string("peeled") ? "filter" : "temporal"},
                                {"edges.samples", "2"},
                                {"output.scaleX", kind == std::string("peeled") ? "0.5" : "1"},
                                {"outline.kind", "through"},
                                {"outline.objects", object_name(scene, 5).id},
                                {"sun.azimuth", "326"},
                                {"sun.elevation", "6"},
                                {"air.dimsLights", "on"}});
                const FramePlan plan = plan_frame(scene, s, view);
                const FrameRecord r = rendered(session(), scene, s, view, o);
                QCOMPARE(r.passes.size(), plan.passes.size());
                for (std::size_t i = 0; i < plan.passes.size(); ++i) {
                    ran.insert(plan.passes[i].technique->name);
                    QCOMPARE(r.passes[i].name, plan.passes[i].name);
                    for (const auto& [name, value] : r.passes[i].work.counts)
                        moved.insert(name);
                }
            }
        const FrameRecord several = rendered(session(), scene, setup_with({{"edges.kind", "multisample"}}), view, o);
        QVERIFY(std::any_of(several.passes.begin(), several.passes.end(),
                            [](const PassRecord& p) { return p.name == "resolve samples"; }));
        ran.insert("multisampling");
        const auto moving = MovingScene(1).import();
        QVERIFY(moving.has_value());
        const FrameRecord bent = rendered(session(), Scene{*moving, {}, {}, {}}, Setup(), view, o);
        for (const PassRecord& p : bent.passes) {
            if (p.name == "skinning") ran.insert("skinning");
            for (const auto& [name, value] : p.work.counts)
                moved.insert(name);
        }
        TwoRooms rooms(0, false); // of what was computed beforehand
        for (const auto& [key, word] : {std::pair("indirect.kind", "lightmap"),
                                        {"indirect.kind", "probes"},
                                        {"shadow.baked", "on"},
                                        {"occlusion.baked", "vertices"},
                                        {"occlusion.baked", "texture"}}) {
            const Setup s = beforehand(rooms, key, word);
            const FrameRecord lit = rendered(session(), rooms.scene, s, view_from({1, 1.5f, 3}, {2, 1, 0}, 64, 36), o);
            for (const PassRecord& p : lit.passes)
                for (const auto& [name, value] : p.work.counts)
                    moved.insert(name);
        }
        for (const char* name :
             {"indirect_light", "space_probes", "baked_shadows", "baked_occlusion"}) // they have no pass of their own
            ran.insert(name);
        std::set<std::string> flatOnes;
        for (const Technique* t : all_techniques())
            for (const Counter& c : t->counters)
                if (t->stages == Stages::flat || t->stages == Stages::blocks) flatOnes.insert(c.name);
        for (const Counter& c : all_counters()) {
            if (c.name == "textureReads")
                continue; // the made-up scene has no textures; calibration_test counts the demo's
            if (flatOnes.contains(c.name)) continue; // flat_stage_test, block_stage_test
            if (c.name == "shadowCopied") continue;  // nothing moves here; shadow_frame_test counts it
            QVERIFY2(moved.contains(c.name), c.name.c_str());
        }
#define MIROLUX_VALUES(name)
#define MIROLUX_TECHNIQUE(name)                                                                                        \
    if (belongs(technique::name().stages, Stage::solid)) QVERIFY2(ran.contains(#name), #name);
#include "core/technique/all.def"
#undef MIROLUX_TECHNIQUE
#undef MIROLUX_VALUES
    }

    void every_layer_shows_something() {
        Scene scene = random_scene(4, 40);
        add_cheap_lights(scene);
        give_optics(scene);
        auto glowing = std::make_shared<SceneAsset>(*scene.asset);
        for (Material& m : glowing->materials)
            m.emissive = glm::vec3(1);
        scene.asset = glowing;
        scene.probes = {even_probe(folder_)};
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 64, 36);
        const Setup s = setup_with({{"air.kind", "uniform"}, {"path.kind", "tiled-deferred"}});
        RenderOptions ledger;
        ledger.picture = false;
        ledger.ledger = true;
        const FrameRecord all = rendered(session(), scene, s, view, ledger);
        const auto best =
            std::max_element(all.ledger.begin(), all.ledger.end(),
                             [](const LightShare& a, const LightShare& b) { return a.luminance < b.luminance; });
        for (const LayerInfo& l : all_layers()) {
            if (!belongs(l.stages, Stage::solid)) continue; // flat_stage_test
            Setup own =                                     // and what the layer is shown under
                setup_with({{"path.kind", "tiled-deferred"},
                            {"reflection.roughest", "1"},
                            {"reflection.edge", "0"},
                            {"outline.objects", object_name(scene, 5).id}});
            for (const Condition& c : l.when)
                QVERIFY(own.set_text(c.key, c.words.front()).has_value());
            const bool baked = std::any_of(l.when.begin(), l.when.end(), [](const Condition& c) {
                return c.key == "indirect.kind" || c.key == "shadow.baked" || c.key == "occlusion.baked";
            });
            TwoRooms rooms(0, false);
            if (baked) {
                own = beforehand(rooms, l.when.front().key, l.when.front().words.front());
                QVERIFY(own.set_text("path.kind", "tiled-deferred").has_value());
            }
            RenderOptions o;
            o.fencedSamples = 0;
            o.show = l.name;
            o.light = best->light;
            o.floatLayers = {l.name};
            View before = view; // what shows movement needs a frame before, from elsewhere
            before.camera.eye.x += 0.5f;
            const Scene& shown = baked ? rooms.scene : scene;
            const View at = baked ? view_from(own.choice("indirect.kind") == "probes" ? glm::vec3(7.6f, 1.6f, 2)
                                                                                      : glm::vec3(0.6f, 1.6f, 3),
                                              {4.1f, 1.4f, 2}, 64, 36)
                                  : view;
            if (!baked) (void)rendered(session(), scene, own, before, o);
            const FrameRecord r = rendered(session(), shown, own, at, o);
            float most = 0;
            for (std::size_t i = 0; i < r.floats.at(l.name).data.size(); ++i)
                if (r.floats.at(l.name).channels == 1 || i % 4 != 3) most = std::max(most, r.floats.at(l.name).data[i]);
            QVERIFY2(most > 0 && !r.picture.empty(), l.name.c_str());
        }
    }

    /// A light's own layer over all lights is what all lights give.
    void layers_of_one_light_add_up() {
        const Scene scene = random_scene(9, 6);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 48, 27);
        const Setup s = setup_with({{"path.kind", "tiled-forward"}});
        FloatImage wanted = hdr(scene, s, view, "diffuse");
        const FloatImage specular = hdr(scene, s, view, "specular");
        std::vector<float> sum(wanted.data.size(), 0.0f);
        for (const Light& l : scene.lights) {
            RenderOptions o;
            o.picture = false;
            o.fencedSamples = 0;
            o.light = l.id;
            o.floatLayers = {"light"};
            const FrameRecord r = rendered(session(), scene, s, view, o);
            for (std::size_t i = 0; i < sum.size(); ++i)
                sum[i] += r.floats.at("light").data[i];
        }
        for (std::size_t i = 0; i < sum.size(); ++i)
            if (i % 4 != 3)
                QVERIFY(std::abs(sum[i] - wanted.data[i] - specular.data[i]) < 4e-3f * std::max(sum[i], 0.05f));
    }

    void targets_come_back_with_their_values_even_where_memory_is_shared() {
        const Scene scene = random_scene(4, 10);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 64, 36);
        const Setup s = setup_with({{"path.kind", "deferred"},
                                    {"gbuffer.packing", "full"},
                                    {"path.targetFormat", "rgba32f"},
                                    {"transparency.kind", "peeled"}});
        QCOMPARE(plan_frame(scene, s, view).resource("normal")->allocation,
                 plan_frame(scene, s, view).resource("peeled sum")->allocation);
        RenderOptions o;
        o.picture = false;
        o.fencedSamples = 0;
        o.targets = {{"normal"}, {"depth"}};
        const FrameRecord r = rendered(session(), scene, s, view, o);
        const FloatImage &normal = r.targets[0], layer = hdr(scene, s, view, "normal"),
                         depth = hdr(scene, s, view, "depth");
        int compared = 0;
        for (int y = 0; y < 36; ++y)
            for (int x = 0; x < 64; ++x) {
                QCOMPARE(r.targets[1].pixel(x, y)[0], depth.pixel(x, y)[0]);
                if (depth.pixel(x, y)[0] <= 0) continue;
                for (int c = 0; c < 3; ++c)
                    QVERIFY(std::abs(normal.pixel(x, 35 - y)[c] - layer.pixel(x, y)[c]) < 2e-3f ||
                            std::abs(normal.pixel(x, y)[c] - layer.pixel(x, y)[c]) < 2e-3f);
                ++compared;
            }
        QVERIFY(compared > 500);
        o.targets = {{"teapot"}};
        const auto refused = session().render(scene, s, view, o);
        QVERIFY(!refused && refused.error().remedy.find("scene") != std::string::npos);
    }

    void a_frame_over_the_memory_limit_is_refused_with_a_size_that_fits() {
        auto made = gpu::Session::create({.memoryLimit = 4 << 20});
        QVERIFY(made.has_value());
        const Scene scene = random_scene(4, 5);
        const auto refused = (*made)->render(scene, Setup(), view_from({8, 4, 12}, {0, 1, 0}, 1280, 720), {});
        QVERIFY(!refused.has_value());
        QVERIFY2(refused.error().remedy.find("fits") != std::string::npos, refused.error().remedy.c_str());
        int width = 0, height = 0;
        QCOMPARE(std::sscanf(refused.error().remedy.c_str(), "A picture of %dx%d", &width, &height), 2);
        QVERIFY(width > 300 && height > 150);
        QVERIFY((*made)->render(scene, Setup(), view_from({8, 4, 12}, {0, 1, 0}, width, height), {}).has_value());
    }

    void programs_are_let_go_beyond_a_bound() {
        QVERIFY(session().device().has_value()); // its context is current
        gpu::ProgramCache cache{gpu::ShaderLibrary{}};
        const int level = gpu::live_objects();
        const std::vector<gpu::ShaderStage> stages = {{GL_VERTEX_SHADER, "screen/vertex.glsl", ""},
                                                      {GL_FRAGMENT_SHADER, "clock/known_work.glsl", ""}};
        const auto first = cache.get(stages, {"N 0"});
        QVERIFY(first.has_value());
        for (int i = 1; i < static_cast<int>(cache.most) + 40; ++i)
            QVERIFY(cache.get(stages, {"N " + std::to_string(i)}).has_value());
        QCOMPARE(cache.size(), cache.most);
        QVERIFY(gpu::live_objects() - level <= static_cast<int>(cache.most) + 1);
        QVERIFY(glIsProgram((*first)->name())); // whoever holds one keeps it
    }

    /// What a pass leaves set is no concern of the next: state turned upside down before a frame changes no bit of it.
    void nothing_leans_on_state_that_others_leave() {
        const Scene scene = random_scene(4, 20);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 64, 36);
        for (const char* path : {"forward", "additive", "volumes", "clustered-deferred"}) {
            Setup s = setup_with({{"path.kind", path}});
            const FloatImage before = hdr(scene, s, view);
            View other = view;
            other.width = 65;
            (void)hdr(scene, s, other); // so that the frame is drawn anew
            glEnable(GL_STENCIL_TEST);
            glStencilFunc(GL_NEVER, 7, 0xFF);
            glStencilMask(0);
            glEnable(GL_SCISSOR_TEST);
            glScissor(3, 3, 1, 1);
            glColorMask(GL_FALSE, GL_TRUE, GL_FALSE, GL_TRUE);
            glDepthMask(GL_FALSE);
            glDepthFunc(GL_NEVER);
            glEnable(GL_BLEND);
            glBlendFunc(GL_ZERO, GL_ZERO);
            glEnable(GL_CULL_FACE);
            glCullFace(GL_FRONT_AND_BACK);
            glFrontFace(GL_CW);
            QVERIFY2(hdr(scene, s, view).data == before.data, path);
        }
    }
};

MIROLUX_TEST(technique_test)
#include "technique_test.moc"

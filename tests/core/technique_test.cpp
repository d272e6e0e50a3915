#include "core/bake/space_probes.h"
#include "core/path/path_kind.h"
#include "core/technique/plan_builder.h"
#include "core/visibility/rooms.h"
#include "support/baked.h"
#include "support/block_worlds.h"
#include "support/flat_scenes.h"
#include "support/probes.h"
#include "support/rigs.h"
#include "support/scenes.h"
#include "support/setups.h"
#include "support/test_main.h"
#include <QtTest>
#include <set>

using namespace mirolux;
using namespace mirolux::test;

/// Another value than the present one, inside the setting's range.
static Value other_value(const Setting& s, const Value& now) {
    switch (s.kind) {
    case SettingKind::toggle:
        return !std::get<bool>(now);
    case SettingKind::choice:
        return s.choices[s.choices.front() == std::get<std::string>(now) ? 1 : 0];
    case SettingKind::whole:
        return std::get<int>(now) == int(s.low) ? int(s.high) : int(s.low);
    case SettingKind::number:
        return std::get<double>(now) == s.low ? s.high : s.low;
    case SettingKind::text:
        return std::string("another");
    default:
        return glm::vec3(static_cast<float>(s.high) * 0.5f);
    }
}

/// A frame that passes one made-up plan through: resources with lives of our choice.
static FramePlan planned(const std::vector<const Technique*>& techniques, const View& view) {
    static const Scene scene = random_scene(3, 5);
    const Setup setup;
    const DrawList list = build_draw_list(scene, setup, view);
    return PlanBuilder::plan(FrameInputs{scene, setup, view, list, {}}, techniques);
}

class technique_test : public QObject {
    Q_OBJECT
private slots:
    void names_are_said_once() {
        std::set<std::string> techniques, keys, counters, terms, layers, parameters;
        for (const Technique* t : all_techniques())
            QVERIFY2(techniques.insert(t->name).second, t->name.c_str());
        for (const Setting& s : all_settings())
            QVERIFY2(keys.insert(s.key).second, s.key.c_str());
        for (const Counter& c : all_counters())
            QVERIFY2(counters.insert(c.name).second && !c.label.empty() && !c.meaning.empty(), c.name.c_str());
        for (const CostTerm& t : all_terms())
            QVERIFY2(terms.insert(t.name).second && !t.meaning.empty(), t.name.c_str());
        for (const LayerInfo& l : all_layers())
            QVERIFY2(layers.insert(l.name).second && l.resource.empty() != l.file.empty(), l.name.c_str());
        for (const std::string& p : all_parameters())
            QVERIFY2(parameters.insert(p).second, p.c_str());
    }

    void conditions_name_settings_and_values_that_exist() {
        const auto check = [](const Condition& c) {
            const int i = setting_index(c.key);
            QVERIFY2(i >= 0, c.key.c_str());
            for (const std::string& word : c.words) {
                Setup s;
                QVERIFY2(s.set_text(c.key, word).has_value(), (c.key + "=" + word).c_str());
            }
        };
        for (const Setting& s : all_settings())
            for (const auto* conditions : {&s.when, &s.orWhen})
                for (const Condition& c : *conditions)
                    check(c);
        for (const LayerInfo& l : all_layers())
            for (const Condition& c : l.when)
                check(c);
        // The G-buffer's packing means something on every path that has one, volumes among them.
        const Setting& packing = all_settings()[static_cast<std::size_t>(setting_index("gbuffer.packing"))];
        QVERIFY(applies(packing, setup_with({{"path.kind", "volumes"}})));
        QVERIFY(!applies(packing, setup_with({{"path.kind", "forward"}})));
    }

    /// A setting that applies changes what is planned: passes, resources, defines, parameters, feeds, or the draw list.
    void every_setting_does_something() {
        Scene scene = random_scene(4, 30);
        add_cheap_lights(scene);
        scene.cheapLights.back().standsFor = {1, 2, 3};
        give_optics(scene);
        const QTemporaryDir folder;
        scene.probes = {even_probe(folder)};
        const FlatStage flat = flat_stage(4, 8, 5);
        const BlockStage blocks = block_stage();
        const Scene solid = scene;
        const auto bent = MovingScene(1).import();
        QVERIFY(bent.has_value());
        const Scene moving{*bent, {}, {}, {}};
        const View solidView = view_from({8, 4, 12}, {0, 1, 0}, 320, 180);
        for (const Setting& s : all_settings()) {
            Setup setup;
            const bool isFlat = s.stages == Stages::flat, isBlocks = s.stages == Stages::blocks;
            if (isFlat) setup.stage = Stage::flat;
            if (isBlocks) setup.stage = Stage::blocks;
            const bool bends = s.key.starts_with("geometry.");
            const Scene& scene = isFlat ? flat.scene : isBlocks ? blocks.scene : bends ? moving : solid;
            const View& view = isFlat ? flat.view : isBlocks ? blocks.view : solidView;
            for (const Condition& c : s.when)
                QVERIFY(setup.set_text(c.key, c.words.front()).has_value());
            for (const Condition& c : s.when) // what a condition needs in turn
                for (const Condition& d : all_settings()[static_cast<std::size_t>(setting_index(c.key))].when)
                    QVERIFY(setup.set_text(d.key, d.words.front()).has_value());
            if (s.key == "cheapLights.instead") QVERIFY(setup.set_text("solidLights.kind", "stencil").has_value());
            if (s.key == "light.fadeInner") QVERIFY(setup.set_text("light.fadeOuter", "30").has_value());
            if (s.key == "output.filter" || s.key == "output.whole")
                QVERIFY(setup.set_text("output.scaleX", "0.5").has_value());
            if (s.key.starts_with("outline."))
                QVERIFY(setup.set_text("outline.objects", object_name(solid, 0).id).has_value());
            Setup changed = setup;
            QVERIFY(changed.set(s.key, other_value(s, setup.get(s.key))).has_value());
            if (s.key == "visibility.kind") QVERIFY(changed.set_text(s.key, "depth").has_value());
            if (s.key.starts_with("visibility.") && s.key != "visibility.kind") {
                // What is computed beforehand is another; growth and the cover are held by core/cells_test.
                const auto digests = [&](const Setup& of) { return cells_digest(scene, of) + rooms_digest(scene, of); };
                QVERIFY2(digests(setup) != digests(changed) || s.key == "visibility.growth" ||
                             s.key == "visibility.cover",
                         s.key.c_str());
                continue;
            }
            QVERIFY2(applies(s, setup), s.key.c_str());
            const DrawList a = build_draw_list(scene, setup, view), b = build_draw_list(scene, changed, view);
            const FramePlan p = plan_frame(scene, setup, view), q = plan_frame(scene, changed, view);
            const auto same = [&] {
                if (p.surfaceDefines != q.surfaceDefines || p.parameters != q.parameters ||
                    p.feeds.size() != q.feeds.size() || p.bytesSum != q.bytesSum)
                    return false;
                if (a.lightIndices != b.lightIndices || a.fade != b.fade || a.reach != b.reach ||
                    p.passes.size() != q.passes.size())
                    return false;
                for (std::size_t i = 0; i < p.passes.size(); ++i)
                    if (p.passes[i].name != q.passes[i].name || p.passes[i].technique != q.passes[i].technique ||
                        !(p.passes[i].expected == q.passes[i].expected))
                        return false;
                return true;
            };
            // What shapes a kernel alone is read by the pass that lists it; gpu/technique_test holds its pictures and
            // lists.
            const bool listed = std::any_of(p.passes.begin(), p.passes.end(), [&](const PlannedPass& pass) {
                return std::find(pass.settings.begin(), pass.settings.end(), s.key) != pass.settings.end();
            });
            QVERIFY2(!same() || listed, s.key.c_str());
        }
    }

    /// Whatever the setup, passes read only what exists, and every family has its colour.
    void plans_hold_together_on_every_path() {
        const Scene scene = random_scene(5, 20);
        for (const std::string& path : path_words([](const PathKind&) { return true; }))
            for (const char* kind : {"sorted", "peeled"})
                for (const Stereo stereo : {Stereo::off, Stereo::onePass}) {
                    View view = view_from({8, 4, 12}, {0, 1, 0}, 320, 180);
                    view.stereo = stereo;
                    Setup setup = setup_with({{"path.kind", path.c_str()}, {"transparency.kind", kind}});
                    const FramePlan p = plan_frame(scene, setup, view);
                    for (const PlannedPass& pass : p.passes) {
                        QVERIFY(pass.technique);
                        bool known = false;
                        for (const PassFamily& f : pass_families())
                            known = known || pass.family == f.name;
                        QVERIFY2(known, pass.family.c_str());
                        for (const std::string& key : pass.settings)
                            QVERIFY2(setting_index(key) >= 0, key.c_str());
                    }
                    std::size_t sum = 0, held = 0;
                    for (const PlannedResource& r : p.resources) {
                        QVERIFY(r.first >= 0 && r.last >= r.first && r.allocation >= 0);
                        QCOMPARE(r.layers, stereo == Stereo::off ? 1 : 2);
                        sum += r.bytes;
                    }
                    for (const Allocation& a : p.allocations) {
                        held += a.bytes;
                        for (std::size_t i = 1; i < a.resources.size(); ++i) { // lives in one place do not meet
                            const PlannedResource &x = p.resources[static_cast<std::size_t>(a.resources[i - 1])],
                                                  &y = p.resources[static_cast<std::size_t>(a.resources[i])];
                            QVERIFY(x.last < y.first && !x.spec.kept);
                            QVERIFY(x.spec.format == y.spec.format && x.width == y.width && x.height == y.height);
                        }
                    }
                    QCOMPARE(sum, p.bytesSum);
                    QCOMPARE(held, p.bytesHeld);
                    QVERIFY(p.bytesPeak <= p.bytesHeld && p.bytesHeld <= p.bytesSum);
                }
    }

    void memory_is_shared_where_lives_do_not_meet() {
        // Full G-buffer, then peeling into full floats: base colour and normal are done with when peeling begins.
        const Scene scene = random_scene(4, 10);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 100, 50);
        const FramePlan p = plan_frame(scene,
                                       setup_with({{"path.kind", "deferred"},
                                                   {"gbuffer.packing", "full"},
                                                   {"path.targetFormat", "rgba32f"},
                                                   {"transparency.kind", "peeled"}}),
                                       view);
        QCOMPARE(p.resource("peeled layer")->allocation, p.resource("base colour, metallic")->allocation);
        QCOMPARE(p.resource("peeled sum")->allocation, p.resource("normal")->allocation);
        QCOMPARE(p.bytesSum - p.bytesHeld, std::size_t(2 * 16 * 100 * 50));
        QVERIFY(p.resource("scene")->allocation !=
                p.resource("peeled layer")->allocation); // it is looked at afterwards
    }

    void bytes_are_counted_by_hand() {
        const FramePlan p = plan_frame(random_scene(4, 10), setup_with({{"path.kind", "forward"}}),
                                       view_from({8, 4, 12}, {0, 1, 0}, 100, 50));
        QCOMPARE(p.resource("scene")->bytes, std::size_t(8 * 5000));
        QCOMPARE(p.resource("depth")->bytes, std::size_t(4 * 5000));
        QCOMPARE(p.resource("picture")->bytes, std::size_t(4 * 5000));
        QCOMPARE(p.bytesSum, std::size_t(16 * 5000));
        QCOMPARE(p.bytesPeak, std::size_t(16 * 5000));
        // A stencil where pixels are marked: 8 bytes of depth.
        QCOMPARE(plan_frame(random_scene(4, 10), setup_with({{"path.kind", "additive"}}),
                            view_from({8, 4, 12}, {0, 1, 0}, 100, 50))
                     .resource("depth")
                     ->bytes,
                 std::size_t(8 * 5000));
    }

    void sizes_mips_and_history_come_from_the_description() {
        static const Technique technique{
            .name = "half", .plan = [](const FrameInputs&, PlanBuilder& b) {
                b.resource({.name = "half",
                            .sampler = "half",
                            .format = Format::rgba16f,
                            .scale = 0.5,
                            .mips = 3,
                            .life = Life::history});
                b.resource({.name = "unused", .format = Format::rgba8});
                b.pass({.name = "half", .family = "finish", .what = "", .reads = {}, .writes = {"half"}});
                b.settles(4, 8);
            }};
        const FramePlan p = planned({&technique}, view_from({8, 4, 12}, {0, 1, 0}, 64, 32));
        QCOMPARE(p.resources.size(), std::size_t(1)); // what no pass names is not made
        QCOMPARE(p.resource("half")->width, 32);
        QCOMPARE(p.resource("half")->height, 16);
        QCOMPARE(p.resource("half")->bytes, std::size_t(2 * 8 * (512 + 128 + 32))); // last frame's half as well
        QVERIFY(p.has_history() && p.jitterFrames == 8 && p.settleFrames == 4);
    }

    /// Every term of a frame that somebody pays for is declared; every declared counter and term has a technique that
    /// moves it.
    void prices_name_declared_terms_only() {
        Scene scene = random_scene(4, 30);
        scene.lights[0].direction = glm::normalize(glm::vec3(0.55f, -0.1f, 0.83f)); // the sun stands in the picture
        add_cheap_lights(scene);
        give_optics(scene);
        const QTemporaryDir folder;
        scene.probes = {even_probe(folder)};
        std::set<std::string> seen;
        for (const std::string& path : path_words([](const PathKind&) { return true; }))
            for (const char* model : {"lambert", "phong", "blinn-phong", "ggx"})
                for (const char* format : {"rgba16f", "rgba32f"})
                    for (const char* kind : {"sorted", "peeled"}) {
                        const Setup setup =
                            setup_with({{"path.kind", path.c_str()},
                                        {"shading.model", model},
                                        {"path.targetFormat", format},
                                        {"transparency.kind", kind},
                                        {"motion.write", "always"},
                                        {"shadow.maps", "on"},
                                        {"shadow.filter", "moments"},
                                        {"shadow.contact", "on"},
                                        {"shadow.resolve", kind == std::string("peeled") ? "half-mask" : "mask"},
                                        {"sky.kind", "atmosphere"},
                                        {"ambient.kind", "environment"},
                                        {"reflection.kind", "screen"},
                                        {"probe.kind", "captured"},
                                        {"reflection.trace", kind == std::string("peeled") ? "linear" : "hierarchical"},
                                        {"occlusion.kind", kind == std::string("peeled") ? "horizon" : "hemisphere"},
                                        {"air.kind", model == std::string("ggx")     ? "froxels"
                                                     : kind == std::string("peeled") ? "height"
                                                                                     : "uniform"},
                                        {"air.lamps", "closed-form"},
                                        {"beams.kind", "mesh"},
                                        {"shafts.kind", "radial"},
                                        {"subsurface.kind", "blur"},
                                        {"subsurface.thickness", "map"},
                                        {"solidLights.kind", "stencil"},
                                        {"viewLights.kind", "ramp"},
                                        {"exposure.kind", "metered"},
                                        {"exposure.meter", "histogram"},
                                        {"bloom.kind", "threshold"},
                                        {"sun.azimuth", "326"},
                                        {"sun.elevation", "6"},
                                        {"air.dimsLights", "on"}});
                        const FramePlan p = plan_frame(scene, setup, view_from({8, 4, 12}, {0, 1, 0}, 320, 180));
                        for (const PlannedPass& pass : p.passes) {
                            for (const std::uint64_t count : {1000, 100000}) { // less than a picture, and more
                                Work w = pass.expected;
                                for (const Counter& c : all_counters())
                                    w.add(c.name, count);
                                for (const auto& [term, amount] : price_pass(p, pass, w).amounts) {
                                    QVERIFY2(find_term(term), term.c_str());
                                    QVERIFY2(amount > 0 || term == "idleLight", term.c_str());
                                    seen.insert(term);
                                }
                            }
                        }
                    }
        for (const char* kind : {"filter", "multisample", "supersample", "temporal"}) {
            const FramePlan p = plan_frame(
                scene,
                setup_with(
                    {{"edges.kind", kind}, {"outline.kind", "through"}, {"outline.objects", object_name(scene, 0).id}}),
                view_from({8, 4, 12}, {0, 1, 0}, 320, 180));
            for (const PlannedPass& pass : p.passes) {
                Work w = pass.expected;
                for (const Counter& c : all_counters())
                    w.add(c.name, 1000);
                for (const auto& [term, amount] : price_pass(p, pass, w).amounts) {
                    QVERIFY2(find_term(term), term.c_str());
                    QVERIFY2(amount > 0 || term == "idleLight", term.c_str());
                    seen.insert(term);
                }
            }
        }
        for (const auto& [key, word] : {std::pair("indirect.kind", "lightmap"),
                                        {"indirect.kind", "probes"},
                                        {"shadow.baked", "on"},
                                        {"occlusion.baked", "texture"}}) { // of what was computed beforehand
            TwoRooms rooms;
            const QTemporaryDir folder;
            rooms.scene.bakes = folder.path().toStdString();
            rooms.scene.lights = {lamp({2, 2.5f, 2}, 200)};
            const Setup s = setup_with({{key, word}});
            bake_map(rooms.scene, s, {1, 1, 0});
            bake_whole(ProbeGridBake::begin(rooms.scene, s, {2, 16, 0}));
            bake_whole(MaskBake::begin(rooms.scene, s, {1, 1}));
            bake_whole(OcclusionBake::begin(rooms.scene, s, {1, 4, 1, false}));
            const FramePlan p = plan_frame(rooms.scene, s, view_from({1, 1.5f, 3}, {2, 1, 0}, 64, 36));
            for (const PlannedPass& pass : p.passes) {
                Work w = pass.expected;
                for (const Counter& c : all_counters())
                    w.add(c.name, 1000);
                for (const auto& [term, amount] : price_pass(p, pass, w).amounts)
                    seen.insert(term);
            }
        }
        FlatStage flat = flat_stage(4, 8, 5);
        QVERIFY(flat.setup.set_text("flat.keepShadows", "off").has_value());
        for (const char* kind : {"cut", "mask", "compute", "grade", "cascades"})
            for (const char* shadow : {"polygon", "quads", "polar", "field", "march"}) {
                QVERIFY(flat.setup.set_text("flat.kind", kind) && flat.setup.set_text("flat.shadow", shadow));
                const FramePlan p = plan_frame(flat.scene, flat.setup, flat.view);
                for (const PlannedPass& pass : p.passes) {
                    Work w = pass.expected;
                    for (const Counter& c : all_counters())
                        w.add(c.name, 1000);
                    for (const auto& [term, amount] : price_pass(p, pass, w).amounts) {
                        QVERIFY2(find_term(term) && amount > 0, term.c_str());
                        seen.insert(term);
                    }
                }
            }
        // Left over: what only calibration's plain workloads do, and what lies behind lights that all reach.
        for (const CostTerm& t : all_terms())
            QVERIFY2(seen.contains(t.name) || t.name == "atomic" || t.name == "idleLight", t.name.c_str());
    }

    void off_costs_no_pass_and_feeds_nothing() {
        const Scene scene = random_scene(4, 10);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 64, 32);
        const FramePlan off = plan_frame(scene, setup_with({{"air.kind", "none"}}), view),
                        on = plan_frame(scene, setup_with({{"air.kind", "uniform"}}), view);
        QCOMPARE(on.passes.size(), off.passes.size());
        QCOMPARE(on.feeds.size(), off.feeds.size() + 1);
        const FramePlan none = plan_frame(scene, setup_with({{"shadow.maps", "off"}}), view),
                        maps = plan_frame(scene, setup_with({{"shadow.maps", "on"}}), view);
        QCOMPARE(none.feeds.size() + 1, maps.feeds.size());
        QCOMPARE(none.passes.size() + 2, maps.passes.size());
        QVERIFY(!none.resource("shadow atlas") && maps.resource("shadow atlas"));
        const PlannedPass& opaque = *maps.pass("opaque");
        QVERIFY(std::count(opaque.reads.begin(), opaque.reads.end(), "shadow atlas") == 1);
        QVERIFY(!off.parameters.contains("airFog") && on.parameters.contains("airFog"));
        // What takes long is left to whoever needs it: a plan that is only looked at sums no sky.
        const FramePlan later =
            plan_frame(scene, setup_with({{"air.kind", "uniform"}, {"ambient.kind", "environment"}}), view);
        QVERIFY(!later.parameters.contains("airAmbient") && !later.parameters.contains("environment0"));
        Parameters made;
        for (const auto& make : later.later)
            made.merge(make());
        QVERIFY(made.contains("airAmbient") && made.contains("environment8"));
        // Every pass whose shaders put something before the eye is shaped by the air's settings.
        for (const PlannedPass& p : on.passes)
            QCOMPARE(p.calls(Slot::air),
                     std::find(p.settings.begin(), p.settings.end(), "air.kind") != p.settings.end());
    }

    void work_keeps_what_this_build_does_not_know() {
        Work a = Work::drawing(2, 10);
        a.set("teapots", 3);
        Work b = a;
        b += a;
        QCOMPARE(b.at("teapots"), std::uint64_t(6));
        QCOMPARE(b.at("nothing"), std::uint64_t(0));
        b.set("teapots", 0);
        QVERIFY(!b.counts.contains("teapots"));
    }
};

MIROLUX_TEST(technique_test)
#include "technique_test.moc"

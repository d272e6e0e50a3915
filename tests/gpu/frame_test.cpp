#include "core/image/image.h"
#include "core/light/tone.h"
#include "gpu/frame/clock.h"
#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

class frame_test : public QObject {
    Q_OBJECT
    static constexpr double black =
        1e-3; // cd/m2: below this a radiance counts as black (it is under 1/1000 of white at EV100 0)

private slots:
    void forward_and_additive_give_the_same_picture() {
        double worst32 = 0, worst16 = 0;
        for (std::uint32_t seed = 1; seed <= 12; ++seed) {
            const Scene scene = random_scene(seed, 60);
            const View view = view_from({4.0f - seed, 3, 13}, {0, 1, 0}, 257, 143);
            for (const char* format : {"rgba32f", "rgba16f"}) {
                const Setup forward = setup_with({{"path.maxLights", "64"}, {"path.targetFormat", format}});
                Setup additive = forward;
                QVERIFY(additive.set("path.kind", std::string("additive")).has_value());
                const double d =
                    largest_relative_difference(hdr(scene, forward, view), hdr(scene, additive, view), black);
                (std::string(format) == "rgba32f" ? worst32 : worst16) =
                    std::max(std::string(format) == "rgba32f" ? worst32 : worst16, d);
            }
        }
        qInfo("largest relative difference: %.2e with full floats, %.2e with half floats", worst32, worst16);
        QVERIFY(worst32 < 1e-3);
        QVERIFY(worst16 < 3e-2); // each blended light rounds to 11 bits: the format's own error, stated
    }

    void demo_is_the_same_on_both_paths() {
        auto open = open_project(MIROLUX_DEMO);
        QVERIFY(open.has_value());
        Scene scene = scene_of(*open);
        View view = open->project.view;
        view.width = 320;
        view.height = 180;
        for (Light& l : scene.lights) // as many as forward can take on every object
            l.enabled = l.enabled && l.name.find("headlamp") == std::string::npos &&
                        l.name.find("ferry deck") == std::string::npos;
        const Setup forward = setup_with({{"path.maxLights", "64"}, {"path.targetFormat", "rgba32f"}});
        Setup additive = forward;
        QVERIFY(additive.set("path.kind", std::string("additive")).has_value());
        QCOMPARE(plan_frame(scene, forward, view).droppedLights, std::uint64_t(0));
        const double d = largest_relative_difference(hdr(scene, forward, view), hdr(scene, additive, view), black);
        qInfo("demo: %.2e", d);
        QVERIFY(d < 1e-3);
    }

    void a_depth_prepass_does_not_change_the_picture() {
        for (std::uint32_t seed = 1; seed <= 4; ++seed)
            for (const char* path : {"forward", "additive"}) {
                const Scene scene = random_scene(seed, 30);
                const View view = view_from({6, 4, 11}, {0, 1, 0}, 200, 150);
                const Setup a = setup_with({{"path.kind", path}, {"path.targetFormat", "rgba32f"}}),
                            b = setup_with(
                                {{"path.kind", path}, {"path.targetFormat", "rgba32f"}, {"path.depthPrepass", "on"}});
                QVERIFY(largest_relative_difference(hdr(scene, a, view), hdr(scene, b, view), black) < 1e-5);
            }
    }

    void the_same_request_twice_is_identical_to_the_bit() {
        auto open = open_project(MIROLUX_DEMO);
        QVERIFY(open.has_value());
        const Scene scene = scene_of(*open);
        View view = open->project.view;
        view.width = 400;
        view.height = 225;
        for (const char* path : {"forward", "additive"}) {
            const Setup s = setup_with({{"path.kind", path}});
            RenderOptions o;
            o.floatLayers = {"final"};
            o.count = true;
            const auto a = session().render(scene, s, view, o);
            View other = view;
            other.width = 90;
            QVERIFY(session().render(scene, s, other, {}).has_value()); // something else in between
            const auto b = session().render(scene, s, view, o);
            QVERIFY(a.has_value() && b.has_value());
            QVERIFY(a->picture == b->picture);
            QVERIFY(a->floats.at("final").data == b->floats.at("final").data);
            for (std::size_t i = 0; i < a->passes.size(); ++i)
                QVERIFY(a->passes[i].work == b->passes[i].work);
        }
    }

    /// Counted on the device against what is known: a full-screen quad covers every pixel once.
    void counters_are_exact() {
        Scene scene{white_plane(), {}, {}, {}};
        for (int i = 0; i < 5; ++i) {
            Light l;
            l.id = i;
            l.position = {0, 2.0f + i, 0};
            l.range = 50;
            scene.lights.push_back(l);
        }
        const View view = view_from({0, 2, 0.01f}, {0, 0, 0}, 73, 41);
        RenderOptions o;
        o.count = true;
        const auto forward = session().render(scene, Setup(), view, o);
        QVERIFY(forward.has_value());
        const std::uint64_t pixels = 73 * 41;
        QCOMPARE(forward->passes[0].work.at("fragments"), pixels);
        QCOMPARE(forward->passes[0].work.at("lightEvaluations"), 5 * pixels);
        QCOMPARE(forward->passes[0].work.at("triangles"), std::uint64_t(2));
        QCOMPARE(forward->passes.back().work.at("fragments"), pixels);
        const auto additive = session().render(scene, setup_with({{"path.kind", "additive"}}), view, o);
        QVERIFY(additive.has_value());
        QCOMPARE(additive->passes[1].name, std::string("lights"));
        QCOMPARE(additive->passes[1].work.at("lightEvaluations"), 5 * pixels);
        QCOMPARE(additive->passes[1].work.at("draws"), std::uint64_t(5));
    }

    void no_instrumented_shader_runs_in_a_timed_frame() {
        const Scene scene = random_scene(2, 10);
        const View view = view_from({0, 4, 12}, {0, 1, 0}, 64, 48);
        RenderOptions o;
        o.count = true;
        o.wholeSamples = 2;
        for (int i = 0; i < 3; ++i) {
            const auto r = session().render(scene, Setup(), view, o);
            QVERIFY(r.has_value());
            QVERIFY(!r->instrumented);
            QVERIFY(r->passes[0].counted);
            QCOMPARE(r->wholeMs.size(), std::size_t(2));
        }
    }

    void dropped_lights_reach_the_record() {
        const Scene scene = random_scene(5, 50);
        const auto r = session().render(scene, setup_with({{"path.maxLights", "2"}}),
                                        view_from({0, 6, 18}, {0, 1, 0}, 64, 48), {});
        QVERIFY(r.has_value());
        QVERIFY(r->droppedLights > 0 && r->droppedObjects > 0 && r->lightsInView > 2);
    }

    void layers_add_up_to_the_picture() {
        const Scene scene = random_scene(4, 20);
        const View view = view_from({5, 4, 12}, {0, 1, 0}, 160, 120);
        for (const char* path : {"forward", "additive"}) {
            const Setup s =
                setup_with({{"path.kind", path}, {"path.maxLights", "64"}, {"path.targetFormat", "rgba32f"}});
            const FloatImage whole = hdr(scene, s, view);
            FloatImage sum{160, 120, 4, std::vector<float>(whole.data.size(), 0.0f)};
            for (const char* part : {"ambient", "diffuse", "specular", "emissive", "sky"}) {
                const FloatImage p = hdr(scene, s, view, part);
                for (std::size_t i = 0; i < p.data.size(); ++i)
                    sum.data[i] += p.data[i];
            }
            QVERIFY(largest_relative_difference(whole, sum, 1e-2) < 4e-3); // five parts, each rounded to 11 bits
        }
    }

    void layers_of_known_surfaces() {
        SceneAsset a;
        a.materials.push_back(plain_material({0.5f, 0.25f, 0.125f}, 0.75f, 0.5f));
        add_quad(a, 0, {-5, 0, 5}, {10, 0, 0}, {0, 0, -10});
        const Scene scene{finished(std::move(a)), {}, {}, {}};
        const View view = view_from({0, 4, 0.01f}, {0, 0, 0}, 32, 32);
        QCOMPARE(hdr(scene, Setup(), view, "albedo").pixel(16, 16)[1], 0.25f);
        QVERIFY(std::abs(hdr(scene, Setup(), view, "normal").pixel(16, 16)[1] - 1.0f) < 1e-3f);
        QCOMPARE(hdr(scene, Setup(), view, "material").pixel(16, 16)[0], 0.5f);
        QCOMPARE(hdr(scene, Setup(), view, "material").pixel(16, 16)[1], 0.75f);
        QVERIFY(std::abs(hdr(scene, Setup(), view, "depth").pixel(16, 16)[0] - 4.0f) < 0.02f);
        RenderOptions o;
        for (const LayerInfo& l : all_layers())
            if (belongs(l.stages, Stage::solid)) o.thumbnails.push_back(l.name);
        const auto r = session().render(scene, setup_with({{"motion.write", "always"}}), view, o);
        QVERIFY2(r.has_value(), r ? "" : to_text(r.error()).c_str());
        QVERIFY(o.thumbnails.size() > 15);
        // Nothing here lets light in beneath its surface, and a frame answers without what it does not make.
        for (const char* kind : {"none", "blur"}) {
            const auto waxless = session().render(scene, setup_with({{"subsurface.kind", kind}}), view, o);
            QVERIFY2(waxless.has_value(), waxless ? "" : to_text(waxless.error()).c_str());
            for (const std::string& name : o.thumbnails)
                if (find_layer(name)->resource.empty()) QVERIFY2(waxless->thumbnails.contains(name), name.c_str());
            QVERIFY(!waxless->thumbnails.contains("subsurface"));
        }
        const FramePlan plan = plan_frame(scene, setup_with({{"motion.write", "always"}}), view);
        for (const std::string& name : o.thumbnails) {
            const std::string& resource = find_layer(name)->resource;
            QCOMPARE(r->thumbnails.contains(name), resource.empty() || plan.resource(resource) != nullptr);
        }
        o.thumbnails = {"lightmask"}; // of a Flat stage
        const auto other = session().render(scene, Setup(), view, o);
        QVERIFY(!other && other.error().what.find("another stage") != std::string::npos);
        o.thumbnails.clear();
        o.show = "nonsense";
        QVERIFY(!session().render(scene, Setup(), view, o).has_value());
    }

    /// The 8-bit picture against the whole chain computed in double from the HDR picture.
    void finish_matches_exposure_curve_and_transfer() {
        const Scene scene = random_scene(6, 20);
        const View view = view_from({0, 4, 12}, {0, 1, 0}, 120, 80);
        for (const char* curve : {"none", "clamp", "reinhard", "filmic"}) {
            const Setup s = setup_with({{"tone.curve", curve},
                                        {"output.dither", "off"},
                                        {"exposure.ev100", "1.5"},
                                        {"path.targetFormat", "rgba32f"}});
            RenderOptions o;
            o.floatLayers = {"final"};
            const auto r = session().render(scene, s, view, o);
            QVERIFY(r.has_value());
            const FloatImage& f = r->floats.at("final");
            for (std::size_t i = 0; i < f.data.size(); ++i) {
                if (i % 4 == 3) continue;
                const double x = f.data[i] * tone::exposure_scale(1.5);
                const std::string c = curve;
                double v = c == "reinhard" ? tone::reinhard(x, 4.0)
                           : c == "filmic" ? tone::filmic(x)
                                           : std::clamp(x, 0.0, 1.0);
                if (c != "none") v = srgb_encode(v);
                QVERIFY2(std::abs(v * 255 - r->picture.rgba[i]) < 0.75, curve);
            }
        }
    }

    /// Without a curve the picture is radiance over 1.2 * 2^EV: halved by each step.
    void exposure_halves_the_picture_with_each_step_of_ev() {
        const Scene scene = random_scene(6, 20);
        const View view = view_from({0, 4, 12}, {0, 1, 0}, 64, 48);
        int compared = 0;
        for (const int ev : {0, 1, 3}) {
            const Setup s =
                setup_with({{"exposure.ev100", std::to_string(ev)}, {"tone.curve", "none"}, {"output.dither", "off"}});
            const FloatImage radiance = hdr(scene, s, view);
            const auto r = session().render(scene, s, view, {});
            QVERIFY(r.has_value());
            for (std::size_t i = 0; i < radiance.data.size(); ++i) {
                if (i % 4 == 3) continue;
                const double wanted = 255 * std::clamp(radiance.data[i] / (1.2 * std::exp2(ev)), 0.0, 1.0);
                QVERIFY(std::abs(r->picture.rgba[i] - wanted) <= 0.75);
                compared += wanted > 5 && wanted < 250;
            }
        }
        QVERIFY(compared > 500);
        const auto a = hdr(scene, setup_with({{"exposure.ev100", "0"}}), view),
                   b = hdr(scene, setup_with({{"exposure.ev100", "5"}}), view);
        QVERIFY(a.data == b.data); // the HDR picture is before exposure
    }

    void dither_changes_a_value_by_half_a_step_at_most() {
        const Scene scene = random_scene(6, 20);
        const View view = view_from({0, 4, 12}, {0, 1, 0}, 64, 48);
        const auto on = session().render(scene, setup_with({{"output.dither", "on"}}), view, {}),
                   off = session().render(scene, setup_with({{"output.dither", "off"}}), view, {});
        QVERIFY(on.has_value() && off.has_value());
        QVERIFY(!(on->picture == off->picture));
        for (std::size_t i = 0; i < on->picture.rgba.size(); ++i)
            QVERIFY(std::abs(on->picture.rgba[i] - off->picture.rgba[i]) <= 1);
    }

    void resizing_leaves_no_objects_behind() {
        const Scene scene = random_scene(3, 10);
        std::mt19937 r(17);
        auto one = [&] {
            return session()
                .render(
                    scene, Setup(),
                    view_from({0, 4, 12}, {0, 1, 0}, 1 + static_cast<int>(r() % 300), 1 + static_cast<int>(r() % 200)),
                    {})
                .has_value();
        };
        for (int i = 0; i < 10; ++i)
            QVERIFY(one());
        const int level = gpu::live_objects();
        for (int i = 0; i < 60; ++i)
            QVERIFY(one());
        QCOMPARE(gpu::live_objects(), level);
        QVERIFY(session().render(scene, Setup(), view_from({0, 4, 12}, {0, 1, 0}, 1, 1), {}).has_value());
        QVERIFY(!session().render(scene, Setup(), view_from({0, 4, 12}, {0, 1, 0}, 0, 10), {}).has_value());
        QVERIFY(!session().render(scene, Setup(), view_from({0, 4, 12}, {0, 1, 0}, 20000, 10), {}).has_value());
    }

    void an_empty_scene_shows_its_sky() {
        SceneAsset a;
        const Scene scene{finished(std::move(a)), {}, {}, {{0.5f, 0.5f, 0.5f}, {0.5f, 0.5f, 0.5f}}};
        QVERIFY(std::abs(hdr(scene, Setup(), view_from({0, 1, 0}, {0, 1, -1}, 8, 8)).pixel(4, 4)[0] - 0.5f) < 1e-3f);
    }

    void a_broken_shader_names_its_file_and_line() {
        QTemporaryDir folder;
        QDir(folder.path()).mkpath("include");
        QFile file(folder.path() + "/include/ambient.glsl");
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write("#include \"generated/slots.glsl\"\nstruct AmbientLeaves { vec3 sum, mirrored, reflected, share; "
                   "float roughness; "
                   "};\nvec3 lit(vec3 n) {\n    return nonsense(n);\n}\n");
        file.close();
        auto broken = gpu::Session::create({.shaderFolder = folder.path().toStdString()});
        QVERIFY(broken.has_value());
        const Scene scene = random_scene(1, 3);
        const View view = view_from({0, 4, 12}, {0, 1, 0}, 32, 24);
        const auto r = (*broken)->render(scene, Setup(), view, {});
        QVERIFY(!r.has_value());
        QVERIFY2(r.error().where.find("include/ambient.glsl:4") != std::string::npos, to_text(r.error()).c_str());
        // Mended, it is read again without a new session.
        QTest::qSleep(20);
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(
            "struct AmbientLeaves { vec3 sum, mirrored, reflected, probes, share; float roughness; };\n"
            "const vec3 lit = vec3(0.0, 3.0, 0.0);\n"
            "const AmbientLeaves noAmbient = AmbientLeaves(lit, lit, lit, lit, lit, 1.0);\n"
            "AmbientLeaves ambientReflected(vec3 p, vec3 b, float m, float r, OpticsData t, float o, vec3 n, vec3 "
            "e) { return noAmbient; }\n");
        file.close();
        const auto mended = (*broken)->render(scene, Setup(), view, {});
        QVERIFY2(mended.has_value(), mended ? "" : to_text(mended.error()).c_str());
    }

    void clock_report_carries_its_evidence() {
        const auto device = session().device();
        QVERIFY(device.has_value());
        const ClockReport& c = device->clock;
        QVERIFY(c.fencedLargeMs > 1.5 * c.fencedSmallMs); // the fenced clock grows with the work
        QVERIFY(c.verdict.find(c.gpuAccepted ? "accepted" : "refused") != std::string::npos);
        if (c.gpuAccepted)
            QVERIFY(std::abs(c.gpuLargeMs - c.fencedLargeMs) <= 0.25 * std::max(c.gpuLargeMs, c.fencedLargeMs));
    }
};

MIROLUX_TEST(frame_test)
#include "frame_test.moc"

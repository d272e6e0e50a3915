#include "core/account/pixel_account.h"
#include "core/blocks/block_light.h"
#include "core/cost/statistics.h"
#include "core/plan/camera_motion.h"
#include "session_fixture.h"
#include "support/block_worlds.h"
#include <numeric>
#include <set>

using namespace mirolux;
using namespace mirolux::test;

/// A Blocks stage's frames against the same light in double.
class block_stage_test : public QObject {
    Q_OBJECT

    static Setup with(const BlockStage& s, std::vector<std::pair<const char*, const char*>> values) {
        Setup setup = s.setup;
        for (const auto& [key, value] : values)
            if (!setup.set_text(key, value)) qFatal("%s", key);
        return setup;
    }

    struct Frame {
        FloatImage light, surface, depth;
    };
    static Frame frame(const BlockStage& s, const Setup& setup) {
        RenderOptions o;
        o.picture = false;
        o.fencedSamples = 0;
        o.floatLayers = {"final"};
        o.targets = {{"block surface"}, {"depth"}};
        auto r = session().render(s.scene, setup, s.view, o);
        if (!r) qFatal("%s", to_text(r.error()).c_str());
        return {r->floats.at("final"), r->targets[0], r->targets[1]};
    }

    /// Where a pixel's surface lies, from what the pass left there; none: the sky.
    static std::optional<blocks::FacePoint> point(const Frame& f, const View& view, int x, int y) {
        const float depth = f.depth.pixel(x, y)[0]; // metres along the view
        if (depth <= 0) return std::nullopt;
        const Ray ray = ray_through(view, x + 0.5, y + 0.5);
        const glm::dvec3 forward = glm::normalize(glm::dvec3(view.camera.aim - view.camera.eye)), d(ray.direction);
        const glm::dvec3 at = glm::dvec3(ray.origin) + d * (double(depth) / glm::dot(d, forward));
        const float* c = f.surface.pixel(x, y);
        return blocks::FacePoint{at, int(std::lround(c[2] * 255)), int(std::lround(c[1] * 255)),
                                 std::uint8_t(std::lround(c[0] * 255))};
    }

private slots:
    /// Each way's picture is its reference in double at every pixel that is not on a cell's edge.
    void light_is_its_reference_data() {
        QTest::addColumn<QString>("way");
        QTest::addColumn<QString>("smooth");
        QTest::addColumn<QString>("draw");
        for (const char* draw : {"mesh", "rays"}) {
            for (const char* way : {"faces", "cast", "flood", "flood-origin"})
                QTest::addRow("%s, %s", way, draw) << way << "on" << draw;
            QTest::addRow("flood, even faces, %s", draw) << "flood"
                                                         << "off" << draw;
            QTest::addRow("two lamps a cell, %s", draw) << "flood-origin, two"
                                                        << "on" << draw;
        }
    }
    void light_is_its_reference() {
        QFETCH(QString, way);
        QFETCH(QString, smooth);
        QFETCH(QString, draw);
        const BlockStage s = block_stage(160, 90);
        const bool two = way.endsWith(", two");
        const std::string w = way.section(',', 0, 0).toStdString(), m = smooth.toStdString(), d = draw.toStdString();
        const Setup setup = with(s, {{"blocks.light", w.c_str()},
                                     {"flood.smooth", m.c_str()},
                                     {"flood.mix", two ? "on" : "off"},
                                     {"blocks.draw", d.c_str()},
                                     {"path.targetFormat", "rgba32f"}});
        const Frame f = frame(s, setup);
        const blocks::BlockLight light(s.scene, setup, s.view);
        int compared = 0, apart = 0, ofProp = 0, lit = 0;
        for (int y = 0; y < s.view.height; ++y)
            for (int x = 0; x < s.view.width; ++x) {
                const auto p = point(f, s.view, x, y);
                if (!p) continue;
                const glm::dvec3 wanted = light.at(*p).total();
                const float* is = f.light.pixel(x, y);
                double worst = 0, most = 1e-3;
                for (int c = 0; c < 3; ++c) {
                    worst = std::max(worst, std::abs(is[c] - wanted[c]));
                    most = std::max(most, wanted[c]);
                }
                apart += worst > 0.004 * most; // on an edge between cells either may be taken
                ofProp += p->part > 0;
                lit += most > 0.05;
                ++compared;
            }
        QVERIFY(compared > 8000 && ofProp > 40 && lit > 1000);
        QVERIFY2(apart < compared / 200, qPrintable(QString("%1 of %2").arg(apart).arg(compared)));
    }

    /// Rectangles and rays fill the same targets.
    void meshes_and_rays_draw_the_same() {
        const BlockStage s = block_stage(320, 180);
        const Frame mesh = frame(s, with(s, {{"blocks.draw", "mesh"}})),
                    rays = frame(s, with(s, {{"blocks.draw", "rays"}}));
        int apart = 0, edges = 0;
        for (int y = 1; y + 1 < s.view.height; ++y)
            for (int x = 1; x + 1 < s.view.width; ++x) {
                const auto code = [&](const Frame& f, int i, int j) {
                    const float* c = f.surface.pixel(i, j);
                    return std::tuple(std::lround(c[0] * 255), std::lround(c[1] * 255), std::lround(c[2] * 255));
                };
                if (code(mesh, x, y) == code(rays, x, y)) {
                    const double a = mesh.depth.pixel(x, y)[0], b = rays.depth.pixel(x, y)[0];
                    if (std::abs(a - b) <= 1e-3 * std::max(a, b)) continue;
                }
                bool edge = false; // of a face, in one of the pictures
                for (const auto& [dx, dy] : {std::pair(1, 0), {-1, 0}, {0, 1}, {0, -1}})
                    edge = edge || code(mesh, x, y) != code(mesh, x + dx, y + dy);
                (edge ? edges : apart) += 1;
            }
        QVERIFY2(apart < 320 * 180 / 1000, qPrintable(QString::number(apart)));
        QVERIFY2(edges < 320 * 180 / 100, qPrintable(QString::number(edges)));
    }

    /// Two eyes, in one pass or one after the other: the same picture, and not the same to both.
    void eyes_see_the_same_either_way() {
        BlockStage s = block_stage(96, 54, true);
        s.view.eyeDistance = 1;
        for (const char* draw : {"mesh", "rays"}) {
            const Setup setup = with(s, {{"blocks.draw", draw}});
            RenderOptions o;
            o.fencedSamples = 0;
            s.view.stereo = Stereo::twoPasses;
            const auto two = session().render(s.scene, setup, s.view, o);
            s.view.stereo = Stereo::onePass;
            const auto one = session().render(s.scene, setup, s.view, o);
            QVERIFY(two.has_value() && one.has_value());
            QVERIFY(one->picture.rgba == two->picture.rgba);
            s.view.stereo = Stereo::off;
            const auto single = session().render(s.scene, setup, s.view, o);
            QVERIFY(single.has_value() && single->picture.rgba != one->picture.rgba);
        }
    }

    void every_layer_shows_and_every_pass_runs() {
        const BlockStage s = block_stage(64, 36, true);
        std::set<std::string> ran, counted;
        for (const char* draw : {"mesh", "rays"})
            for (const char* way : {"faces", "cast", "flood", "flood-origin"}) {
                const Setup setup = with(s, {{"blocks.light", way}, {"blocks.draw", draw}, {"flood.mix", "on"}});
                RenderOptions o;
                o.count = true;
                o.fencedSamples = 1;
                const auto r = session().render(s.scene, setup, s.view, o);
                QVERIFY2(r.has_value(), r ? "" : to_text(r.error()).c_str());
                const FramePlan plan = plan_frame(s.scene, setup, s.view);
                QCOMPARE(r->passes.size(), plan.passes.size());
                for (std::size_t i = 0; i < plan.passes.size(); ++i) {
                    ran.insert(plan.passes[i].technique->name);
                    for (const auto& [name, value] : r->passes[i].work.counts)
                        counted.insert(name);
                    const CostTerms terms = price_pass(plan, plan.passes[i], r->passes[i].work);
                    QVERIFY2(!terms.amounts.empty(), plan.passes[i].name.c_str());
                }
                for (const LayerInfo& l : all_layers()) {
                    if (l.stages != Stages::blocks || !shows(l, setup, false)) continue;
                    RenderOptions show;
                    show.fencedSamples = 0;
                    show.show = l.name;
                    show.floatLayers = {l.name};
                    const auto shown = session().render(s.scene, setup, s.view, show);
                    QVERIFY2(shown.has_value(), shown ? "" : to_text(shown.error()).c_str());
                    float most = 0;
                    const FloatImage& f = shown->floats.at(l.name);
                    for (std::size_t i = 0; i < f.data.size(); ++i)
                        if (f.channels == 1 || i % 4 != 3) most = std::max(most, f.data[i]);
                    QVERIFY2(most > 0, l.name.c_str());
                }
            }
        for (const Technique* t : all_techniques())
            if (t->stages == Stages::blocks) {
                if (t != &technique::block_stage()) QVERIFY2(ran.count(t->name), t->name.c_str());
                for (const Counter& c : t->counters)
                    QVERIFY2(counted.count(c.name), c.name.c_str());
            }
        for (const LayerInfo& l : all_layers()) // each shows under some way
            if (l.stages == Stages::blocks) QVERIFY(!l.label.empty());
    }

    /// A pixel's account is what the picture holds, and tells of the light's way.
    void the_account_is_the_picture() {
        const BlockStage s = block_stage(160, 90);
        for (const char* way : {"faces", "cast", "flood", "flood-origin"}) {
            const Setup setup = with(s, {{"blocks.light", way}, {"path.targetFormat", "rgba32f"}});
            int near = 0, asked = 0, ways = 0;
            for (int y = 20; y < 90; y += 9)
                for (int x = 5; x < 160; x += 13) {
                    RenderOptions o;
                    o.picture = false;
                    o.fencedSamples = 0;
                    o.probe = glm::ivec2(x, y);
                    const auto r = session().render(s.scene, setup, s.view, o);
                    QVERIFY(r.has_value() && r->probe.has_value());
                    if (r->probe->samples.empty()) continue;
                    const PixelAccount a = pixel_account(s.scene, setup, s.view,
                                                         build_draw_list(s.scene, setup, s.view), *r->probe, {}, {});
                    QVERIFY(a.cell.has_value() && !a.reason.empty());
                    near += a.difference < 0.01;
                    ways += a.cell->way.size() > 1;
                    QCOMPARE(a.cell->levels.has_value(), std::string(way).starts_with("flood"));
                    QCOMPARE(a.cell->hits.has_value(), std::string(way) == "cast");
                    ++asked;
                }
            QVERIFY2(near > asked * 95 / 100, qPrintable(QString("%1: %2 of %3").arg(way).arg(near).arg(asked)));
            QCOMPARE(ways > 0, std::string(way) == "flood-origin");
        }
    }

    /// In the window a frame waits no longer than its budget for light to spread: pictures come meanwhile, darker, and
    /// the last one is what a patient frame shows.
    void light_spreads_over_frames() {
        BlockStage s = block_stage();
        auto larger = std::make_shared<blocks::World>(*s.scene.blocks);
        blocks::Volume v(glm::ivec3(160, 96, 160));
        std::mt19937 r(4);
        for (int i = 0; i < 600; ++i)
            v.set({int(r() % 160), int(r() % 90), int(r() % 160)}, 3);
        v.fill({0, 94, 0}, {160, 96, 160}, 1); // no sky
        larger->still = v;
        larger->props.clear();
        s.scene.blocks = larger;
        const Setup setup = with(s, {{"blocks.light", "flood"}, {"flood.loss", "1"}, {"flood.budget", "0.4"}});
        RenderOptions o;
        o.fencedSamples = 0;
        o.floatLayers = {"floodLevels"};
        o.gatherMs = 1;
        double last = -1;
        int frames = 0;
        std::vector<double> frameMs;
        const auto sum = [](const FloatImage& f) { return std::accumulate(f.data.begin(), f.data.end(), 0.0); };
        for (bool whole = false; !whole && frames < 3000; ++frames) {
            const auto now = session().render(s.scene, setup, s.view, o);
            QVERIFY2(now.has_value(), now ? "" : to_text(now.error()).c_str());
            whole = now->settled();
            QCOMPARE(whole, !now->told.contains("flooding"));
            frameMs.push_back(now->answerMs);
            const double light = sum(now->floats.at("floodLevels"));
            QVERIFY(light >= last);
            last = light;
        }
        QVERIFY2(frames > 3, qPrintable(QString::number(frames)));
        qInfo("160 x 96 x 160 cells, 600 lamps that reach 62 steps, 0.4 ms a frame: whole after %d frames; median %.1f "
              "ms, "
              "worst %.1f ms",
              frames, median(frameMs), quantile(frameMs, 1));
        o.gatherMs = 0; // one that waits
        auto again = std::make_shared<blocks::World>(*larger);
        again->still.set({0, 0, 0}, 1);
        again->still.set({0, 0, 0}, 0);
        s.scene.blocks = again;
        const auto patient = session().render(s.scene, setup, s.view, o);
        QVERIFY(patient.has_value() && patient->settled());
        QCOMPARE(sum(patient->floats.at("floodLevels")), last);
    }

    /// Another world is shown as it is, whatever was shown before; the same request gives the same bits.
    void edits_are_shown() {
        BlockStage s = block_stage();
        const Setup setup = with(s, {{"blocks.light", "flood-origin"}});
        const FloatImage before = frame(s, setup).light;
        auto changed = std::make_shared<blocks::World>(*s.scene.blocks);
        changed->still.set({36, 9, 22}, 3); // a lamp in the air
        BlockStage other = s;
        other.scene.blocks = changed;
        const FloatImage after = frame(other, setup).light;
        QVERIFY(after.data != before.data);
        auto fresh = std::make_shared<blocks::World>(*changed);
        fresh->still = blocks::Volume(changed->still.size()); // the same cells, with nothing shared
        for (int y = 0; y < 40; ++y)
            for (int z = 0; z < 50; ++z)
                for (int x = 0; x < 70; ++x)
                    fresh->still.set({x, y, z}, changed->still.at({x, y, z}));
        other.scene.blocks = fresh;
        QVERIFY(frame(other, setup).light.data == after.data);
        QVERIFY(frame(s, setup).light.data == before.data);
    }
};

MIROLUX_TEST(block_stage_test)
#include "block_stage_test.moc"

#include "core/flat/cascades.h"
#include "core/flat/painted.h"
#include "core/flat/plane_tracer.h"
#include "core/plan/frame_plan.h"
#include "support/flat_scenes.h"
#include "support/test_main.h"
#include <QtTest>
#include <glm/gtc/constants.hpp>
#include <set>

using namespace mirolux;
using namespace mirolux::test;

namespace {

constexpr double pi = glm::pi<double>();

/// A stage of one round light and these walls, without ambient light.
FlatStage plain(const glm::vec2& place, float range, std::vector<flat::Wall> walls) {
    FlatStage s = flat_stage(1, 1, 0);
    Light l;
    l.id = 1;
    l.name = "lamp";
    l.position = {place, 4};
    l.range = range;
    l.sourceSize = 4;
    s.scene.lights = {l};
    auto world = std::make_shared<flat::World>(*s.scene.flat);
    for (std::size_t i = 0; i < walls.size(); ++i)
        walls[i].id = static_cast<int>(i) + 1;
    world->walls = std::move(walls);
    s.scene.flat = world;
    if (!s.setup.set("flat.ambient", glm::vec3(0.0f))) qFatal("no ambient");
    return s;
}

flat::Wall wall_of(std::vector<glm::dvec2> points, bool closed, float emits, float reflects) {
    flat::Wall w;
    w.name = "wall";
    w.outline = {std::move(points), closed};
    w.emits = glm::vec3(emits);
    w.reflects = glm::vec3(reflects);
    return w;
}

glm::dvec3 traced(const FlatStage& s, const glm::dvec2& at, int bounces, std::uint32_t samples) {
    const flat::PlaneTracer tracer(s.scene, s.setup, s.view, bounces, 1);
    glm::dvec3 sum(0.0);
    std::uint64_t rays = 0;
    for (std::uint32_t n = 0; n < samples; ++n)
        sum += tracer.sample_at(at, 7, n, rays);
    return sum / double(samples);
}

bool near(double a, double b, double share) {
    if (std::abs(a - b) <= share * std::max(std::abs(b), 1e-9)) return true;
    qWarning("%.6f is not %.6f", a, b);
    return false;
}

} // namespace

/// Light that travels in the plane, against what is known by formula.
class plane_truth_test : public QObject {
    Q_OBJECT
private slots:
    void a_source_gives_over_its_range_what_its_formula_gives() {
        Light l;
        l.range = 50;
        l.intensity = 0.8f;
        l.sourceSize = 2;
        for (const float falloff : {1.0f, 2.0f, 3.5f}) {
            l.flat.falloff = falloff;
            const auto s = flat::plane_source(l, {}, 0);
            QVERIFY(s && s->radius == 1.0);
            double formula = 0, travels = 0;
            const double step = 0.01;
            for (double d = 0.5 * step; d < 50; d += step) {
                formula += flat::light_at(l, {}, glm::dvec2(d, 0)).x * 2 * pi * d * step;
                travels += s->radiance.x * (d > 1 ? std::asin(1 / d) / pi : 1) * 2 * pi * d * step;
            }
            QVERIFY2(near(travels, formula, 0.02), qPrintable(QString::number(falloff)));
        }
        l.flat.falloff = 2;
        l.flat.shape = FlatShape::line;
        l.flat.length = 30;
        const auto line = flat::plane_source(l, {}, 0);
        double formula = 0;
        for (double y = -60; y < 60; y += 0.25)
            for (double x = -80; x < 80; x += 0.25)
                formula += flat::light_at(l, {}, {x, y}).x * 0.25 * 0.25;
        QVERIFY(near(line->radiance.x * line->rim() * 50 / pi, formula, 0.01));
        l.type = LightType::directional;
        QVERIFY(!flat::plane_source(l, {}, 0));
    }

    void a_disc_is_as_bright_as_the_angle_that_it_fills() {
        const FlatStage s = plain({64, 36}, 60, {});
        const auto source = *flat::plane_source(s.scene.lights[0], {}, 0);
        for (const double d : {3.0, 9.0, 31.0, 140.0})
            QVERIFY(near(traced(s, {64 + d, 36}, 0, 64).x, source.radiance.x * std::asin(2 / d) / pi, 1e-6));
        // From within it fills everything.
        QVERIFY(near(traced(s, {64.5, 36}, 0, 16).x, source.radiance.x, 1e-6));
    }

    void half_of_a_disc_behind_a_wall_is_half_as_bright() {
        // The wall's upper end lies on the line from the point to the disc's middle.
        const FlatStage s = plain({64, 36}, 60, {wall_of({{80, 36}, {80, -20}}, false, 0, 0)});
        const auto source = *flat::plane_source(s.scene.lights[0], {}, 0);
        QVERIFY(near(traced(s, {100, 36}, 0, 512).x, 0.5 * source.radiance.x * std::asin(2 / 36.0) / pi, 0.01));
        QVERIFY(traced(s, {100, 10}, 0, 64).x == 0);
    }

    void outside_light_comes_through_what_is_open() {
        FlatStage s = plain({64, 36}, 0, {wall_of({{70, 26}, {70, 46}}, false, 0, 0)});
        QVERIFY(s.setup.set("flat.ambient", glm::vec3(0.5f)).has_value());
        const double hidden = 2 * std::atan2(10.0, 6.0);
        QVERIFY(near(traced(s, {64, 36}, 0, 4096).x, 0.5 * (1 - hidden / (2 * pi)), 0.005));
        // A sun gives its own where it is seen whole.
        s.scene.lights[0].type = LightType::directional;
        s.scene.lights[0].direction = {-1, 0, 0};
        s.scene.lights[0].intensity = 0.7f;
        s.scene.lights[0].sourceSize = 0.1f;
        QVERIFY(s.setup.set("flat.ambient", glm::vec3(0.0f)).has_value());
        QVERIFY(near(traced(s, {90, 36}, 0, 64).x, 0.7, 1e-5));
        QVERIFY(traced(s, {64, 36}, 0, 64).x == 0);
        const flat::PlaneSky sky = flat::plane_sky(s.scene.lights, glm::dvec3(0.0));
        QVERIFY(near(sky.within(-pi, pi).x, 0.7, 1e-5) && near(sky.within(-0.05, 0.0).x, 7 * pi * 2, 1e-5));
        QVERIFY(sky.within(0.06, 0.2).x == 0 && near(sky.within(2 * pi - 0.05, 2 * pi).x, 7 * pi * 2, 1e-5));
    }

    /// In a closed room whose walls all send e and throw back r, light is e / (1 - r) everywhere, whatever its shape.
    void a_furnace_is_even() {
        for (const double r : {0.0, 0.5, 0.8}) {
            const FlatStage s = plain(
                {0, 0}, 0,
                {wall_of({{20, 10}, {90, 14}, {100, 60}, {50, 66}, {56, 40}}, true, 0.25f, static_cast<float>(r))});
            for (const glm::dvec2& at : {glm::dvec2(60, 30), {90, 50}, {30, 14}})
                QVERIFY(near(traced(s, at, -1, 4096).x, 0.25 / (1 - r), 0.01));
            QVERIFY(near(traced(s, {60, 30}, 1, 4096).x, 0.25 * (1 + r), 0.01));
        }
    }

    void a_spot_shines_within_its_cone() {
        FlatStage s = plain({64, 36}, 60, {});
        Light& l = s.scene.lights[0];
        l.type = LightType::spot;
        l.direction = {1, 0, 0};
        l.innerConeAngle = 0.5f;
        l.outerConeAngle = 0.7f;
        const auto source = *flat::plane_source(l, {}, 0);
        QVERIFY(near(traced(s, {94, 36}, 0, 64).x, source.radiance.x * std::asin(2 / 30.0) / pi, 1e-6));
        QVERIFY(traced(s, {64, 66}, 0, 64).x == 0 && traced(s, {34, 36}, 0, 64).x == 0);
    }

    void rays_meet_what_a_search_through_all_meets() {
        for (unsigned seed = 1; seed < 6; ++seed) {
            const FlatStage s = flat_stage(seed, 12, 20);
            std::vector<flat::PlaneSource> sources;
            for (const Light& l : s.scene.lights)
                if (auto source = flat::plane_source(l, {}, 0)) sources.push_back(*source);
            sources[0].axis = {7, 3};
            const flat::PlaneRays rays(*s.scene.flat, sources);
            const auto edges = flat::edges_of(flat::outlines_of(*s.scene.flat));
            std::mt19937 random(seed);
            for (int i = 0; i < 2000; ++i) {
                const glm::dvec2 from(random() % 12800 / 100.0, random() % 7200 / 100.0);
                const double a = random() % 62832 / 1e4;
                const glm::dvec2 way(std::cos(a), std::sin(a));
                double nearest = std::numeric_limits<double>::infinity();
                for (const auto& source : sources)
                    nearest = std::min(nearest, source.met(from, way));
                const flat::PlaneHit hit = rays.nearest(from, way);
                for (const flat::Edge& e : edges) {
                    const glm::dvec2 d = e.b - e.a, to = e.a - from;
                    const double across = way.x * d.y - way.y * d.x, t = (to.x * d.y - to.y * d.x) / across,
                                 u = (to.x * way.y - to.y * way.x) / across;
                    if (t > 0 && u >= 0 && u <= 1) nearest = std::min(nearest, t);
                }
                QVERIFY(hit.distance == nearest || std::abs(hit.distance - nearest) < 1e-9);
                QVERIFY(hit.wall < 0 || glm::dot(hit.normal, way) <= 0);
                // A source is seen within the angles that it says, and nowhere else.
                const auto angles = sources[0].seen_from(from);
                if (const bool met = sources[0].met(from, way) < 1e300;
                    std::abs(std::abs(std::remainder(a - angles.middle, 2 * pi)) - angles.half) > 1e-6)
                    QCOMPARE(met, std::abs(std::remainder(a - angles.middle, 2 * pi)) < angles.half);
            }
        }
    }

    void a_way_passes_every_cell_that_it_touches() {
        std::mt19937 random(3);
        const auto place = [&] { return glm::dvec2(random() % 9000 / 1000.0, random() % 9000 / 1000.0); };
        for (int i = 0; i < 500; ++i) {
            const glm::dvec2 a = place(), b = place();
            std::vector<glm::ivec2> cells;
            flat::traverse(a, b, [&](const glm::ivec2& c, double) {
                cells.push_back(c);
                return true;
            });
            QVERIFY(cells.front() == glm::ivec2(glm::floor(a)) && cells.back() == glm::ivec2(glm::floor(b)));
            for (std::size_t k = 1; k < cells.size(); ++k)
                QCOMPARE(std::abs(cells[k].x - cells[k - 1].x) + std::abs(cells[k].y - cells[k - 1].y), 1);
            const std::set<std::pair<int, int>> passed = [&] {
                std::set<std::pair<int, int>> out;
                for (const glm::ivec2& c : cells)
                    out.insert({c.x, c.y});
                return out;
            }();
            for (int k = 0; k <= 1000; ++k) {
                const glm::ivec2 c(glm::floor(a + (b - a) * (k / 1000.0)));
                QVERIFY(passed.contains({c.x, c.y}));
            }
        }
    }

    void an_outline_is_filled_where_it_is_inside() {
        const flat::Occluder star{{{10, 10}, {40, 14}, {70, 10}, {44, 30}, {50, 60}, {30, 34}, {12, 50}}, true};
        const auto triangles = flat::filled(star);
        const auto inside = [&](const glm::dvec2& p) {
            bool in = false;
            for (std::size_t i = 0, n = star.points.size(); i < n; ++i) {
                const glm::dvec2 &a = star.points[i], &b = star.points[(i + 1) % n];
                if ((a.y > p.y) != (b.y > p.y) && p.x < a.x + (b.x - a.x) * (p.y - a.y) / (b.y - a.y)) in = !in;
            }
            return in;
        };
        const auto covers = [&](const glm::dvec2& p) {
            int n = 0;
            for (std::size_t i = 0; i < triangles.size(); i += 3) {
                double sides[3];
                for (std::size_t k = 0; k < 3; ++k) {
                    const glm::dvec2 &a = triangles[i + k], &b = triangles[i + (k + 1) % 3];
                    sides[k] = (b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x);
                }
                n += (sides[0] >= 0 && sides[1] >= 0 && sides[2] >= 0) ||
                     (sides[0] <= 0 && sides[1] <= 0 && sides[2] <= 0);
            }
            return n;
        };
        for (double y = 9.3; y < 62; y += 0.71)
            for (double x = 9.1; x < 71; x += 0.73)
                QCOMPARE(covers({x, y}), inside({x, y}) ? 1 : 0);
    }

    void levels_join_without_a_gap_and_cost_alike() {
        FlatStage s = flat_stage(1, 1, 1);
        QVERIFY(s.setup.set_text("flat.kind", "cascades").has_value());
        for (const char* rays : {"4", "8", "16"}) {
            QVERIFY(s.setup.set_text("cascades2d.rays", rays).has_value());
            const flat::CascadeShape shape = flat::cascade_shape(s.setup, s.view);
            for (std::size_t n = 0; n + 1 < shape.levels.size(); ++n) {
                const flat::CascadeLevel &a = shape.levels[n], &b = shape.levels[n + 1];
                QCOMPARE(a.end, b.start);
                QCOMPARE(4 * (a.end - a.start), b.end - b.start);
                QCOMPARE(b.rays, 4 * a.rays);
                QCOMPARE(b.across * b.down, n == 0 ? a.rays : 4 * a.across * a.down);
                const double ratio = double(b.columns * b.rows) * b.rays / (double(a.columns * a.rows) * a.rays);
                QVERIFY2(ratio >= 1 && ratio < 2.5, qPrintable(QString::number(ratio)));
            }
        }
    }

    /// What a frame cannot do as it was asked to is said, and only then.
    void frames_say_what_they_cannot_do_data() {
        QTest::addColumn<QString>("kind");
        QTest::addColumn<QString>("shadow");
        QTest::addColumn<QString>("key");
        QTest::addColumn<QString>("value");
        QTest::addColumn<QString>("words"); // empty: nothing is said
        QTest::newRow("nothing") << "mask"
                                 << "polygon"
                                 << ""
                                 << ""
                                 << "";
        QTest::newRow("heights") << "mask"
                                 << "polar"
                                 << "tall"
                                 << ""
                                 << "heights count";
        QTest::newRow("heights by quads") << "mask"
                                          << "quads"
                                          << "tall"
                                          << ""
                                          << "";
        QTest::newRow("quads in a kernel") << "compute"
                                           << "quads"
                                           << ""
                                           << ""
                                           << "a kernel cannot take";
        QTest::newRow("march in a kernel") << "compute"
                                           << "march"
                                           << ""
                                           << ""
                                           << "";
        QTest::newRow("layers") << "cascades"
                                << "none"
                                << "layers"
                                << ""
                                << "does not count";
        QTest::newRow("no shadow") << "cascades"
                                   << "none"
                                   << "casts"
                                   << ""
                                   << "does not count";
        QTest::newRow("beyond") << "cascades"
                                << "none"
                                << "beyond"
                                << ""
                                << "1 light lies beyond";
        QTest::newRow("levels") << "cascades"
                                << "none"
                                << "cascades2d.levels"
                                << "2"
                                << "Take a level more";
        QTest::newRow("cascades") << "cascades"
                                  << "none"
                                  << ""
                                  << ""
                                  << "";
        QTest::newRow("pixels") << "mask"
                                << "none"
                                << "flat.pixelScale"
                                << "3"
                                << "no multiple of 3";
        QTest::newRow("even pixels") << "mask"
                                     << "none"
                                     << "flat.pixelScale"
                                     << "4"
                                     << "";
        QTest::newRow("large") << "mask"
                               << "field"
                               << "large"
                               << ""
                               << "over eight million";
        QTest::newRow("no walls") << "mask"
                                  << "field"
                                  << "bare"
                                  << ""
                                  << "No wall casts";
    }
    void frames_say_what_they_cannot_do() {
        QFETCH(QString, kind);
        QFETCH(QString, shadow);
        QFETCH(QString, key);
        QFETCH(QString, value);
        QFETCH(QString, words);
        FlatStage s = flat_stage(4, 3, 4);
        const auto choose = [&](const char* k, const QString& v) {
            if (auto ok = s.setup.set_text(k, v.toStdString()); !ok) qFatal("%s", to_text(ok.error()).c_str());
        };
        choose("flat.kind", kind);
        choose("flat.shadow", shadow);
        choose("cascades2d.scale", "1");
        if (key.contains('.')) choose(qPrintable(key), value);
        flat::World w = *s.scene.flat;
        w.seen = flat::Seen::above;
        if (key == "tall") w.walls[1].height = 6;
        if (key == "bare") w.walls.clear();
        s.scene.flat = std::make_shared<const flat::World>(std::move(w));
        if (key == "layers") s.scene.lights[0].flat.layers = {"ground"};
        if (key == "casts") s.scene.lights[0].flat.casts = false;
        if (key == "beyond") {
            s.scene.lights[0].position = {-40, 36, 5};
            s.scene.lights[0].type = LightType::point;
            s.scene.lights[0].range = 60;
        }
        if (key == "large") {
            s.view.width = 3840;
            s.view.height = 2160;
            choose("occluders.scale", "1");
            choose("occluders.margin", "0.5");
            const flat::OccluderGrid g = flat::occluder_grid(s.setup, s.view);
            QVERIFY(g.scale == 2 && double(g.width) * g.height <= 1 << 23);
            QVERIFY(std::abs(g.cell - 2 * 72.0 / 2160) < 1e-9);
        }
        const FramePlan plan = plan_frame(s.scene, s.setup, s.view);
        QString said;
        for (const std::string& note : plan.notes)
            said += QString::fromStdString(note) + "\n";
        QVERIFY2(words.isEmpty() ? said.isEmpty() : said.contains(words), qPrintable(said));
    }

    /// A profile's sum is that of its values, and is remembered under what it depends on.
    void a_pictures_and_a_texts_sum_is_that_of_their_profiles() {
        FlatStage s = flat_stage(4, 1, 0);
        Light l = s.scene.lights[0];
        l.type = LightType::point;
        l.flat.text = "QUAY";
        l.flat.picture = "sheet";
        for (const FlatShape shape : {FlatShape::text, FlatShape::picture})
            for (const float size : {8.0f, 20.0f}) {
                l.flat.shape = shape;
                l.flat.size = size;
                const flat::Profile p = flat::profile_of(l, *s.scene.asset);
                double sum = 0;
                for (const glm::vec3& v : p.values)
                    sum += (double(v.x) + v.y + v.z) / 3;
                sum *= 4 * p.half.x * p.half.y / double(p.values.size());
                for (int again = 0; again < 2; ++again)
                    QVERIFY(near(flat::profile_sum(l, *s.scene.asset), sum, 1e-9));
                const auto source = flat::plane_source(l, *s.scene.asset, 0);
                QVERIFY(source && near(source->radiance.x * source->rim() * glm::length(p.half) / pi,
                                       sum * double(l.intensity) * double(l.color.x), 1e-6));
            }
    }

    void the_same_samples_come_again_and_the_picture_is_the_sheet_under_light() {
        FlatStage s = flat_stage(4, 3, 4);
        s.view.width = 32;
        s.view.height = 18;
        const auto picture = [&](std::uint32_t samples) {
            truth::Picture p(32, 18);
            const flat::PlaneTracer tracer(s.scene, s.setup, s.view, -1, 1);
            truth::refine(tracer.samples(), p, {samples, 0}, [](double) { return true; });
            return p;
        };
        QVERIFY(picture(16) == picture(16));
        const FloatImage light = picture(16).image(), lit = flat::lit_picture(s.scene, s.setup, s.view, light);
        const flat::Painted sheets = flat::painted(s.scene, s.setup, s.view);
        const float* l = light.pixel(9, 7);
        for (int c = 0; c < 3; ++c)
            QVERIFY(std::abs(lit.pixel(9, 7)[c] - sheets.scene.pixel(9, 7)[c] * std::clamp(l[c], 0.0f, 1.0f)) < 1e-6f);
        const std::string first = flat::plane_digest(s.scene, s.setup, s.view, -1, 1);
        s.scene.lights[0].position.x += 1;
        QVERIFY(first != flat::plane_digest(s.scene, s.setup, s.view, -1, 1));
    }
};

MIROLUX_TEST(plane_truth_test)
#include "plane_truth_test.moc"

#include "core/air/air.h"
#include "core/air/froxels.h"
#include "core/air/lamp_air.h"
#include "core/io/wire.h"
#include "support/test_main.h"
#include "support/traced.h"
#include <QtTest>
#include <random>

using namespace mirolux;
using namespace mirolux::test;

namespace {

AirVolume cloud(VolumeShape shape) {
    AirVolume v;
    v.id = 1;
    v.shape = shape;
    v.center = {1, 2, -6};
    v.size = {4, 3, 2};
    v.turn = 0.5f;
    v.extinction = 0.7f;
    v.falloff = 0.6f;
    v.noise = 0.8f;
    v.drift = {0.3f, 0, 0};
    return v;
}

/// Extinction times metres along a line, summed.
double summed_depth(const AirMedium& m, const glm::dvec3& from, const glm::dvec3& to, int steps = 20000) {
    double sum = 0;
    for (int i = 0; i < steps; ++i)
        sum += air_at(m, glm::mix(from, to, (i + 0.5) / steps)).extinction;
    return sum * glm::length(to - from) / steps;
}

Setup fog_with_values(const std::vector<std::pair<std::string, std::string>>& values) {
    Setup s;
    for (const auto& [key, value] : values)
        if (!s.set_text(key, value)) qFatal("%s", key.c_str());
    return s;
}

/// A lamp alone, seen from the side, with nothing around it but a far wall that closes the air.
Scene lamp_alone(float candela) {
    SceneAsset a;
    a.materials.push_back(plain_material(glm::vec3(0), 0, 1));
    add_quad(a, 0, {-60, -60, -40}, {120, 0, 0}, {0, 120, 0});
    Scene s;
    s.asset = finished(std::move(a));
    s.lights = {lamp({0.5f, 0.2f, -9}, candela)};
    return s;
}

/// What truth says that the air of one ray sends, of lamps straight.
double scattered(const Scene& scene, const Setup& setup, const glm::vec3& way, std::uint32_t samples) {
    truth::Options o;
    o.layer = truth::Layer::scattering;
    const View view = view_from({0, 0, 0}, way, 9, 9);
    const truth::PathTracer tracer(scene, setup, view, o, std::make_shared<RayScene>(scene));
    const glm::vec3 d = glm::normalize(way);
    return luminance(tracer.single_scattering({{0, 0, 0}, d}, 0, 40 / -d.z, samples, 3).value);
}

} // namespace

class air_test : public QObject {
    Q_OBJECT
private slots:
    void the_phase_function_is_whole_and_directions_follow_it() {
        for (const Phase& p : {Phase{}, Phase{0.6, 0, 0}, Phase{-0.8, 0, 0}, Phase{0.9, -0.3, 0.3}}) {
            double whole = 0, mean = 0;
            const int steps = 200000;
            for (int i = 0; i < steps; ++i) {
                const double c = -1 + 2 * (i + 0.5) / steps;
                whole += phase(p, c);
                mean += phase(p, c) * c;
            }
            whole *= 4 * 3.14159265358979 / steps;
            mean *= 4 * 3.14159265358979 / steps;
            QVERIFY2(std::abs(whole - 1) < 1e-5, qPrintable(QString::number(whole)));
            QVERIFY(std::abs(mean - glm::mix(p.first, p.second, p.share)) < 1e-4); // g is the mean cosine
            // Shares of directions in bands of cosine against the integral over each.
            const glm::dvec3 way = glm::normalize(glm::dvec3(0.3, -0.8, 0.5));
            int bands[8] = {};
            const int draws = 100000;
            std::mt19937 r(7);
            for (int i = 0; i < draws; ++i) {
                const glm::dvec3 to = scattered_way(p, way, {random01(r), random01(r), random01(r)});
                QVERIFY(std::abs(glm::length(to) - 1) < 1e-9);
                ++bands[std::min(7, int((glm::dot(to, way) + 1) * 4))];
            }
            for (int b = 0; b < 8; ++b) {
                double wanted = 0;
                for (int i = 0; i < 2000; ++i)
                    wanted += phase(p, -1 + (b + (i + 0.5) / 2000) / 4);
                wanted *= 2 * 3.14159265358979 * 0.25 / 2000;
                QVERIFY2(std::abs(double(bands[b]) / draws - wanted) < 0.006,
                         qPrintable(QString("band %1: %2, %3").arg(b).arg(bands[b]).arg(wanted * draws)));
            }
        }
    }

    void a_volume_lies_within_what_it_says_to_cross() {
        std::mt19937 r(3);
        for (const VolumeShape shape : {VolumeShape::box, VolumeShape::sphere}) {
            const AirVolume v = cloud(shape);
            int inside = 0;
            for (int i = 0; i < 2000; ++i) {
                const glm::dvec3 o(random_in(r, -4, 6), random_in(r, -2, 6), random_in(r, -10, 2)),
                    d = glm::normalize(glm::dvec3(random_in(r, -1, 1), random_in(r, -1, 1), random_in(r, -1, 1)));
                const auto part = crossed(v, o, d);
                for (double t = 0.01; t < 14; t += 0.37) {
                    const double there = density(v, o + d * t, 2.0);
                    QVERIFY(there >= 0 && there <= 1);
                    inside += there > 0;
                    if (there > 0) QVERIFY(part && t >= part->x - 1e-9 && t <= part->y + 1e-9);
                }
            }
            QVERIFY2(inside > 100, qPrintable(QString::number(inside)));
        }
        AirVolume drifting = cloud(VolumeShape::box);
        drifting.falloff = 0;
        drifting.noise = 1;
        // Its patches move with it, its walls do not.
        const glm::dvec3 p(1, 2, -6), q = p + glm::dvec3(drifting.drift) * 1.5;
        QVERIFY(std::abs(density(drifting, p, 1.0) - density(drifting, q, 2.5)) < 1e-9);
    }

    void noise_fills_its_range_and_is_smooth() {
        double low = 1, high = 0, sum = 0;
        for (int i = 0; i < 20000; ++i) {
            const glm::dvec3 p(i * 0.173, i * 0.071 - 300, i * 0.037);
            const double n = air_noise(p);
            low = std::min(low, n);
            high = std::max(high, n);
            sum += n;
            QVERIFY(std::abs(air_noise(p + glm::dvec3(1e-4, 0, 0)) - n) < 2e-3);
        }
        QVERIFY(low > 0 && low < 0.2 && high > 0.8 && high < 1 && std::abs(sum / 20000 - 0.5) < 0.02);
    }

    /// The integral in closed form's stead, against plain sums.
    void the_integral_of_lamps_in_air_is_right() {
        for (const double u : {0.0, 0.001, 0.02, 0.5, 3.0, 40.0})
            for (const double v : {0.0, 0.3, 0.8, 1.3, 1.5, 1.5707}) {
                double sum = 0;
                const int steps = 400000;
                for (int i = 0; i < steps; ++i)
                    sum += std::exp(-u * std::tan(v * (i + 0.5) / steps));
                sum *= v / steps;
                QVERIFY2(std::abs(air_integral(u, v) - sum) < 2e-6,
                         qPrintable(QString("%1, %2: %3 against %4").arg(u).arg(v).arg(air_integral(u, v)).arg(sum)));
            }
    }

    /// Light of one lamp scattered once, along rays beside it, through it nearly, before it and away from it.
    void a_lamp_in_even_air_matches_numeric_integration() {
        const double extinction = 0.05;
        const glm::dvec3 lamp(1, 2, -12);
        for (const glm::dvec3& aim : {glm::dvec3(1.3, 2, -12), glm::dvec3(4, 0, -12), glm::dvec3(-9, 5, -12),
                                      glm::dvec3(3, 3, 12), glm::dvec3(0, 0, -1)})
            for (const double to : {4.0, 11.0, 60.0}) {
                const glm::dvec3 d = glm::normalize(aim);
                double sum = 0;
                const int steps = 400000;
                for (int i = 0; i < steps; ++i) {
                    const double t = to * (i + 0.5) / steps, r = glm::length(lamp - d * t);
                    sum += std::exp(-extinction * (t + r)) / (r * r);
                }
                sum *= to / steps / (4 * 3.14159265358979);
                const double got = lamp_in_air(extinction, lamp, glm::dvec3(0), d, 0, to);
                QVERIFY2(
                    std::abs(got - sum) < 1e-4 * sum,
                    qPrintable(QString("%1 %2 to %3: %4 against %5").arg(aim.x).arg(aim.y).arg(to).arg(got).arg(sum)));
            }
    }

    /// Truth's air against the closed form, in even air; and against sums along the ray by height, with a lobe and with
    /// clouds.
    void traced_air_matches_its_integrals() {
        const Scene scene = lamp_alone(500);
        const glm::vec3 way(0.3f, 0.05f, -1.0f);
        const glm::dvec3 d = glm::normalize(glm::dvec3(way));
        Setup even =
            fog_with_values({{"air.kind", "uniform"}, {"air.extinction", "0.06"}, {"air.albedo", "0.9,0.9,0.9"}});
        const double wanted =
            500 * 0.9 * 0.06 * lamp_in_air(0.06, glm::dvec3(scene.lights[0].position), glm::dvec3(0), d, 0, 40 / -d.z);
        const double got = scattered(scene, even, way, 4000);
        QVERIFY2(std::abs(got - wanted) < 0.01 * wanted, qPrintable(QString("%1 against %2").arg(got).arg(wanted)));
        for (const bool clouds : {false, true}) {
            const Setup s = fog_with_values({{"air.kind", "froxels"},
                                             {"air.profile", "height"},
                                             {"air.extinction", "0.06"},
                                             {"air.height", "1.5"},
                                             {"air.base", "-0.5"},
                                             {"air.anisotropy", "0.6"},
                                             {"air.albedo", "0.9,0.9,0.9"}});
            Scene with_clouds = scene;
            if (clouds) {
                with_clouds.volumes = {cloud(VolumeShape::box)};
                with_clouds.volumes[0].center = {1.8f, 0.3f, -6};
            }
            const AirMedium m = medium(s, with_clouds.volumes, 0);
            const glm::dvec3 lamp(scene.lights[0].position);
            double sum = 0;
            const int steps = 1500;
            for (int i = 0; i < steps; ++i) {
                const glm::dvec3 x = d * (40 / -d.z * (i + 0.5) / steps), v = lamp - x;
                sum += luminance(air_at(m, x).scattering) * phase(m.phase, glm::dot(glm::normalize(v), d)) /
                       glm::dot(v, v) *
                       std::exp(-summed_depth(m, glm::dvec3(0), x, 400) - summed_depth(m, x, lamp, 400));
            }
            sum *= 500 * 40 / -d.z / steps;
            const double traced = scattered(with_clouds, s, way, 20000);
            QVERIFY2(std::abs(traced - sum) < 0.02 * sum,
                     qPrintable(QString("clouds %1: %2 against %3").arg(clouds).arg(traced).arg(sum)));
        }
    }

    /// A far wall that glows: what the atmosphere leaves of it and adds, as the pixel account says it.
    void the_atmosphere_stands_before_traced_surfaces() {
        SceneAsset a;
        a.materials.push_back(diffuse(0, 300, true));
        add_quad(a, 0, {-9000, -9000, -4000}, {18000, 0, 0}, {0, 18000, 0});
        Scene scene;
        scene.asset = finished(std::move(a));
        for (const char* perspective : {"on", "off"}) {
            const Setup s = fog_with_values({{"sky.kind", "atmosphere"},
                                             {"sky.preset", "haze"},
                                             {"sky.perspective", perspective},
                                             {"ambient.kind", "none"},
                                             {"sun.elevation", "20"}});
            const View view = view_from({0, 2, 0}, {0, 2, -10}, 9, 9);
            const truth::PathTracer tracer(scene, s, view, {}, std::make_shared<RayScene>(scene));
            glm::dvec3 sum(0.0);
            std::uint64_t rays = 0;
            for (std::uint32_t n = 0; n < 64; ++n)
                sum += tracer.sample(4, 4, n, rays) / 64.0;
            const DrawList list = build_draw_list(scene, s, view);
            AirShare share;
            for (const Technique* t : all_techniques())
                if (t->air) t->air({scene, s, view, list}, {glm::dvec3(0, 2, -4000)}, share);
            const glm::dvec3 wanted = share.apply(glm::dvec3(300));
            QVERIFY2(glm::length(sum - wanted) < 0.02 * glm::length(wanted),
                     qPrintable(QString("%1: %2 against %3").arg(perspective).arg(sum.x).arg(wanted.x)));
            QCOMPARE(wanted == glm::dvec3(300), QString(perspective) == "off");
        }
    }

    /// A glowing wall behind clouds and fog by height: what comes through on the average is the exponential of the sum.
    void what_comes_through_clouds_is_right_on_the_average() {
        SceneAsset a;
        a.materials.push_back(diffuse(0, 100, true));
        add_quad(a, 0, {-40, -40, -20}, {80, 0, 0}, {0, 80, 0});
        Scene scene;
        scene.asset = finished(std::move(a));
        scene.volumes = {cloud(VolumeShape::box), cloud(VolumeShape::sphere)};
        scene.volumes[0].center = {0, 0.2f, -6};
        scene.volumes[1].center = {0.2f, 0, -11};
        scene.volumes[1].size = glm::vec3(5);
        scene.volumes[0].extinction = scene.volumes[1].extinction = 0.25f;
        Setup s = fog_with_values({{"air.kind", "froxels"},
                                   {"air.profile", "height"},
                                   {"air.extinction", "0.03"},
                                   {"air.height", "2"},
                                   {"air.albedo", "0,0,0"},
                                   {"ambient.kind", "none"}});
        for (AirVolume& v : scene.volumes)
            v.albedo = glm::vec3(0);
        const View view = view_from({0, 0, 0}, {0, 0, -1}, 1, 1);
        const AirMedium m = medium(s, scene.volumes, 0);
        const double wanted = 100 * std::exp(-summed_depth(m, glm::dvec3(0), {0, 0, -20}));
        const double got = mean(traced(scene, s, view, {}, 60000));
        QVERIFY2(std::abs(got - wanted) < 0.02 * wanted, qPrintable(QString("%1 against %2").arg(got).arg(wanted)));
    }

    /// Air that shines by itself, without an end of scattering: emission over extinction times what does not come
    /// through.
    void air_that_shines_by_itself_is_counted() {
        SceneAsset a;
        a.materials.push_back(plain_material(glm::vec3(0), 0, 1));
        add_quad(a, 0, {-40, -40, -20}, {80, 0, 0}, {0, 80, 0});
        Scene scene;
        scene.asset = finished(std::move(a));
        const Setup s = fog_with_values({{"air.kind", "froxels"},
                                         {"air.extinction", "0.05"},
                                         {"air.albedo", "0,0,0"},
                                         {"air.emission", "2,2,2"},
                                         {"ambient.kind", "none"},
                                         {"shading.model", "lambert"}});
        const double wanted = 2 / 0.05 * (1 - std::exp(-0.05 * 20));
        const double got = mean(traced(scene, s, view_from({0, 0, 0}, {0, 0, -1}, 1, 1), {}, 20000));
        QVERIFY2(std::abs(got - wanted) < 0.01 * wanted, qPrintable(QString("%1 against %2").arg(got).arg(wanted)));
        QVERIFY(glm::length(fog_radiance(s, ambient_light(s)) - glm::dvec3(40)) < 1e-4); // of a deep layer
    }

    void cells_tile_the_view() {
        Setup s = fog_with_values({{"air.kind", "froxels"}, {"air.cell", "8"}, {"air.slices", "50"}});
        const FroxelGrid g = froxel_grid(s, view_from({0, 0, 0}, {0, 0, -1}, 161, 90));
        QCOMPARE(g.columns, 21);
        QCOMPARE(g.rows, 12);
        QVERIFY(g.across * (g.height() / g.rows) >= 50 && g.width() == g.across * 21);
        QCOMPARE(g.begin(0), 0.0);
        QCOMPARE(g.begin(50), 100.0);
        for (double slice = 0; slice <= 50; slice += 0.7)
            QVERIFY(std::abs(g.slice_at(g.begin(slice)) - slice) < 1e-9);
    }

    void shares_of_lights_in_the_air_go_to_file_and_back() {
        Light l = lamp({1, 2, 3}, 5);
        QCOMPARE(air_share(l, fog_with_values({{"air.lampShare", "2"}})), 2.0);
        l.airShare = 0.25f;
        QCOMPARE(air_share(l, fog_with_values({{"air.lampShare", "2"}})), 0.25);
        const AirVolume v = cloud(VolumeShape::sphere);
        const Json light = Json::parse(to_json(l).dump()), volume = Json::parse(to_json(v).dump());
        QVERIFY(light_from_json(JsonCursor(light)) == l);
        QVERIFY(air_volume_from_json(JsonCursor(volume)) == v);
        Json flat = volume;
        flat["size"] = {1, 0, 1};
        QVERIFY_EXCEPTION_THROWN((void)air_volume_from_json(JsonCursor(flat)), ReadFailure);
    }
};

MIROLUX_TEST(air_test)
#include "air_test.moc"

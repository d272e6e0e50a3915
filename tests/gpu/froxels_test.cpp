#include "core/air/air.h"
#include "core/air/froxels.h"
#include "core/air/lamp_air.h"
#include "core/truth/path_tracer.h"
#include "session_fixture.h"
#include "support/traced.h"

using namespace mirolux;
using namespace mirolux::test;

namespace {

using Values = std::vector<std::pair<std::string, std::string>>;

Setup cells(Values more = {}) {
    Values values = {{"path.targetFormat", "rgba32f"}, {"gbuffer.packing", "full"}, {"path.maxLights", "64"},
                     {"air.kind", "froxels"},          {"air.extinction", "0.05"},  {"air.far", "40"},
                     {"ambient.kind", "none"}};
    values.insert(values.end(), more.begin(), more.end());
    return setup_with(values);
}

/// A black room of fog, closed by a far wall, with one lamp in it.
Scene fog_room(bool spot) {
    SceneAsset a;
    a.materials.push_back(plain_material(glm::vec3(0), 0, 1));
    a.materials.back().unlit = true;
    add_quad(a, 0, {-60, -60, -30}, {120, 0, 0}, {0, 120, 0});
    if (spot) add_box(a, 0, {-2.5f, 1.2f, -13.0f}, {1.9f, 0.1f, 6.0f}); // a slab in part of its light
    Scene s;
    s.asset = finished(std::move(a));
    Light l = lamp(spot ? glm::vec3(0, 4, -10) : glm::vec3(1.5f, 0.5f, -9), 400);
    if (spot) {
        l.type = LightType::spot;
        l.direction = {0, -1, 0};
        l.innerConeAngle = glm::radians(25.0f);
        l.outerConeAngle = glm::radians(35.0f);
    }
    s.lights = {l};
    return s;
}

glm::dvec3 way_of(const View& view, int x, int y) {
    const double ty = std::tan(0.5 * view.camera.fovY), tx = ty * view.width / view.height;
    return glm::normalize(
        glm::transpose(glm::dmat3(view_matrix(view.camera))) *
        glm::dvec3((2 * (x + 0.5) / view.width - 1) * tx, (1 - 2 * (y + 0.5) / view.height) * ty, -1));
}

/// Largest and mean difference over the wanted picture's 99th percentile. Pixels nearer to the lamp's own than `apart`
/// are set aside.
struct Off {
    double worst = 0, mean = 0;
};
Off off(const std::vector<double>& got, const std::vector<double>& wanted, const std::vector<bool>& counts) {
    std::vector<double> held;
    for (std::size_t i = 0; i < wanted.size(); ++i)
        if (counts[i]) held.push_back(wanted[i]);
    std::sort(held.begin(), held.end());
    const double whole = held[held.size() * 99 / 100];
    Off out;
    for (std::size_t i = 0; i < wanted.size(); ++i) {
        if (!counts[i]) continue;
        out.worst = std::max(out.worst, std::abs(got[i] - wanted[i]) / whole);
        out.mean += std::abs(got[i] - wanted[i]) / whole / double(held.size());
    }
    return out;
}

double luminance_of(const float* p) {
    return luminance({p[0], p[1], p[2]});
}
double luminance_at(const FloatImage& image, const glm::ivec2& pixel) {
    return luminance_of(&image.data[4 * (std::size_t(pixel.y) * std::size_t(image.width) + std::size_t(pixel.x))]);
}

/// The picture of the fog room against the closed form, which core holds against numeric integration.
Off against_closed_form(const Setup& s, const View& view, double apart) {
    const Scene scene = fog_room(false);
    const FloatImage got = hdr(scene, s, view);
    const AirMedium m = medium(s);
    const glm::dvec3 lamp(scene.lights[0].position);
    const glm::dvec3 inView = glm::dmat3(view_matrix(view.camera)) * (lamp - glm::dvec3(view.camera.eye));
    const double ty = std::tan(0.5 * view.camera.fovY);
    const glm::dvec2 at((inView.x / -inView.z / (ty * view.width / view.height) + 1) * 0.5 * view.width,
                        (1 - inView.y / -inView.z / ty) * 0.5 * view.height);
    std::vector<double> have, wanted;
    std::vector<bool> counts;
    for (int y = 0; y < view.height; ++y)
        for (int x = 0; x < view.width; ++x) {
            const glm::dvec3 d = way_of(view, x, y);
            const double metres = 30 / -d.z;
            wanted.push_back(luminance(m.albedo * m.extinction) * 400 *
                             lamp_in_air(m.extinction, lamp, glm::dvec3(view.camera.eye), d, 0, metres));
            have.push_back(luminance_at(got, {x, y}));
            counts.push_back(glm::length(glm::dvec2(x + 0.5, y + 0.5) - at) > apart);
        }
    return off(have, wanted, counts);
}

FloatImage record_floats(const Scene& scene, const Setup& s, const View& view, int frames) {
    RenderOptions o;
    o.picture = false;
    o.fencedSamples = 0;
    o.frames = frames;
    o.floatLayers = {"final"};
    auto r = session().render(scene, s, view, o);
    if (!r) qFatal("%s", to_text(r.error()).c_str());
    return r->floats.at("final");
}

double sum_of(const FloatImage& image) {
    double sum = 0;
    for (std::size_t i = 0; i < image.data.size(); i += 4)
        sum += luminance_of(&image.data[i]);
    return sum;
}

} // namespace

class froxels_test : public QObject {
    Q_OBJECT
private slots:
    /// One point without range in even fog, isotropic: cells within 8 % of the picture's 99th percentile at the default
    /// grid, two cells around the lamp set aside; the closed form on the device within 1 % everywhere.
    void a_lamp_in_the_fog_matches_the_integral() {
        const View view = view_from({0, 0, 0}, {0, 0, -1}, 320, 180);
        const Off byCells = against_closed_form(cells({{"light.threshold", "0.0001"}, {"air.far", "100"}}), view, 20);
        qInfo("cells: worst %.2f %%, mean %.3f %% of the 99th percentile", 100 * byCells.worst, 100 * byCells.mean);
        QVERIFY(byCells.worst < 0.08 && byCells.mean < 0.01);
        const Off closed = against_closed_form(
            cells({{"air.kind", "uniform"}, {"air.lamps", "closed-form"}, {"light.threshold", "0.0001"}}), view, 3);
        qInfo("closed form: worst %.3f %%, mean %.4f %%", 100 * closed.worst, 100 * closed.mean);
        QVERIFY(closed.worst < 0.01);
    }

    void finer_grids_are_nearer_to_the_truth() {
        const View view = view_from({0, 0, 0}, {0, 0, -1}, 160, 90);
        double before = 1;
        for (const char* cell : {"16", "8", "4"}) {
            const Off o = against_closed_form(
                cells({{"air.cell", cell}, {"air.slices", "96"}, {"light.threshold", "0.0001"}}), view, 12);
            qInfo("cell %s: worst %.2f %%, mean %.3f %%", cell, 100 * o.worst, 100 * o.mean);
            QVERIFY(o.mean < before);
            before = o.mean;
        }
    }

    /// A spot half of which a slab stands in, with its shadow map, against single scattering along each pixel's ray by
    /// core's rays: at the default grid.
    void a_spot_and_its_shadow_match_traced_scattering() {
        const Scene scene = fog_room(true);
        const View view = view_from({0, 1, 2}, {0, 1, -10}, 480, 360);
        const Setup s = cells({{"shadow.maps", "on"}, {"light.threshold", "0.0001"}});
        const FloatImage got = hdr(scene, s, view);
        truth::Options o;
        o.layer = truth::Layer::scattering;
        const auto rays = std::make_shared<RayScene>(scene);
        const truth::PathTracer tracer(scene, s, view, o, rays);
        double off = 0, whole = 0;
        for (int y = 3; y < view.height; y += 8)
            for (int x = 5; x < view.width; x += 8) {
                const Ray ray{view.camera.eye, glm::vec3(way_of(view, x, y))};
                const RayHit hit = rays->any_surface(ray, 0, true);
                const double wanted =
                    luminance(tracer.single_scattering(ray, 0, hit.object < 0 ? 1e9f : hit.distance, 256, 5).value);
                off += std::abs(luminance_at(got, {x, y}) - wanted);
                whole += wanted;
            }
        qInfo("mean error %.2f %%", 100 * off / whole);
        QVERIFY(whole > 0 && off < 0.10 * whole);
    }

    /// Under light from everywhere alone, cells show what the closed forms of fog show.
    void fog_without_lamps_is_the_closed_forms() {
        const Scene scene = random_scene(6, 0);
        const View view = view_from({9, 5, 13}, {0, 1, 0}, 96, 54);
        for (const char* profile : {"even", "height"}) {
            const Values more = {{"ambient.kind", "gradient"}, {"air.profile", profile},
                                 {"air.height", "4"},          {"air.far", "12"},
                                 {"air.slices", "128"},        {"air.cell", "4"}}; // most of it lies beyond the cells
            Setup s = cells(more), closed = s;
            QVERIFY(closed.set_text("air.kind", std::string(profile) == "even" ? "uniform" : "height").has_value());
            const double d = largest_relative_difference(hdr(scene, closed, view), hdr(scene, s, view), 1e-2);
            QVERIFY2(d < 0.01, qPrintable(QString("%1: %2").arg(profile).arg(d)));
        }
    }

    void all_paths_give_one_picture_and_layers_add_up() {
        const Scene scene = random_scene(6, 40);
        const View view = view_from({9, 5, 13}, {0, 1, 0}, 96, 54);
        const FloatImage wanted = hdr(scene, cells({{"path.kind", "additive"}}), view);
        for (const char* path : paths)
            QVERIFY2(largest_relative_difference(wanted, hdr(scene, cells({{"path.kind", path}}), view), 1e-2) < 4e-3,
                     path);
        const Setup s = cells({{"path.kind", "tiled-deferred"}});
        QVERIFY(layers_miss_the_picture(scene, s, view) < 6e-3);
    }

    /// The account's parts make the pixel; what it says the air shows of single lights is what the air shows.
    void the_account_tells_light_by_light() {
        const Scene scene = random_scene(6, 12);
        const View view = view_from({9, 5, 13}, {0, 1, 0}, 96, 54);
        for (const char* kind : {"froxels", "uniform"}) {
            const Setup s = cells({{"air.kind", kind}, {"air.lamps", "closed-form"}, {"path.kind", "deferred"}});
            for (const glm::ivec2 pixel : {glm::ivec2(48, 30), {20, 44}, {50, 2}}) {
                const PixelAccount a = account_at(scene, s, view, pixel);
                QVERIFY2(a.difference < 5e-3,
                         qPrintable(QString("%1 %2, %3: %4").arg(kind).arg(pixel.x).arg(pixel.y).arg(a.difference)));
                double lights = 0;
                for (const AirTerm& t : a.airLights)
                    lights += luminance(t.radiance);
                const FloatImage air = hdr(scene, s, view, "airlight");
                const double shown = luminance_at(air, pixel);
                QVERIFY2(
                    !a.airLights.empty() && std::abs(lights - shown) < 0.25 * shown + 1e-4,
                    qPrintable(
                        QString("%1 %2, %3: %4 of %5").arg(kind).arg(pixel.x).arg(pixel.y).arg(lights).arg(shown)));
            }
        }
    }

    /// What a lamp gives in the air is what the picture loses without it.
    void the_ledger_counts_light_in_the_air() {
        Scene scene = fog_room(true);
        Light other = lamp({-2, 1, -14}, 60);
        other.id = 2;
        other.name = "other";
        scene.lights.push_back(other);
        const View view = view_from({0, 1, 2}, {0, 1, -10}, 128, 96);
        const Setup s = cells({{"shadow.maps", "on"}, {"light.threshold", "0.0001"}});
        RenderOptions o;
        o.picture = false;
        o.ledger = true;
        const auto r = session().render(scene, s, view, o);
        QVERIFY(r.has_value() && r->ledger.size() == 2);
        const double all = sum_of(hdr(scene, s, view));
        for (const LightShare& share : r->ledger) {
            Scene without = scene;
            for (Light& l : without.lights)
                l.enabled = l.id != share.light;
            const double lost = all - sum_of(hdr(without, s, view));
            const double told = share.luminance + share.airLuminance;
            QVERIFY2(share.airCells > 1000 && lost > 0 && std::abs(lost - told) < 0.03 * lost,
                     qPrintable(QString("%1: %2 against %3").arg(share.light).arg(told).arg(lost)));
        }
    }

    /// A lamp's own share stands before that of all; without any it costs nothing there.
    void lights_have_shares_of_their_own() {
        Scene scene = fog_room(false);
        const View view = view_from({0, 0, 0}, {0, 0, -1}, 96, 54);
        const Setup s = cells({{"light.threshold", "0.0001"}});
        const double one = sum_of(hdr(scene, s, view));
        QVERIFY(std::abs(sum_of(hdr(scene, cells({{"light.threshold", "0.0001"}, {"air.lampShare", "2"}}), view)) -
                         2 * one) < 0.01 * one);
        scene.lights[0].airShare = 0.5f;
        QVERIFY(std::abs(sum_of(hdr(scene, s, view)) - 0.5 * one) < 0.01 * one);
        scene.lights[0].airShare = 0.0f;
        QCOMPARE(sum_of(hdr(scene, s, view)), 0.0);
        // A lamp that lights no surface can still stand in the fog.
        scene.lights[0].airShare = 1.0f;
        scene.lights[0].diffuseShare = scene.lights[0].specularShare = 0;
        QVERIFY(std::abs(sum_of(hdr(scene, s, view)) - one) < 0.01 * one);
    }

    /// A lobe forward makes the lamp that one looks at brighter, and its scattering follows core's phase function.
    void the_phase_function_shows() {
        const Scene scene = fog_room(false);
        const View view = view_from({0, 0, 0}, {0, 0, -1}, 96, 54);
        const Setup s = cells({{"air.anisotropy", "0.7"}, {"air.secondLobe", "on"}, {"light.threshold", "0.0001"}});
        const FloatImage got = hdr(scene, s, view);
        const AirMedium m = medium(s);
        const glm::dvec3 lamp(scene.lights[0].position);
        for (const glm::ivec2 pixel : {glm::ivec2(10, 10), {90, 50}, {5, 30}}) {
            const glm::dvec3 d = way_of(view, pixel.x, pixel.y);
            double sum = 0;
            const int steps = 4000;
            for (int i = 0; i < steps; ++i) {
                const glm::dvec3 x = d * (30 / -d.z * (i + 0.5) / steps), v = lamp - x;
                sum += phase(m.phase, glm::dot(glm::normalize(v), d)) / glm::dot(v, v) *
                       std::exp(-m.extinction * (glm::length(x) + glm::length(v)));
            }
            sum *= 30 / -d.z / steps * 400 * luminance(m.albedo) * m.extinction;
            const double have = luminance_at(got, pixel);
            QVERIFY2(std::abs(have - sum) < 0.03 * sum,
                     qPrintable(QString("%1, %2: %3 against %4").arg(pixel.x).arg(pixel.y).arg(have).arg(sum)));
        }
    }

    /// Clouds: what comes through them against core's densities along each ray.
    void clouds_dim_as_core_says() {
        Scene scene = fog_room(false);
        scene.lights.clear();
        for (int i = 0; i < 2; ++i) {
            AirVolume v;
            v.id = i;
            v.shape = i ? VolumeShape::sphere : VolumeShape::box;
            v.center = {i ? 1.5f : -1.5f, 0.3f, -7};
            v.size = {3, 2.5f, 2};
            v.turn = 0.6f;
            v.extinction = 0.8f;
            v.noise = 0.7f;
            v.grain = 0.8f;
            v.falloff = 0.4f;
            v.drift = {0.5f, 0, 0};
            scene.volumes.push_back(v);
        }
        View view = view_from({0, 0, 0}, {0, 0, -1}, 96, 54);
        view.seconds = 3;
        const Setup s = cells({{"air.extinction", "0.01"},
                               {"air.cell", "2"},
                               {"air.slices", "256"},
                               {"air.far", "12"},
                               {"air.spread", "1"}});
        const FloatImage t = hdr(scene, s, view, "transmittance");
        const AirMedium m = medium(s, scene.volumes, 3);
        double worst = 0, least = 1;
        for (int y = 3; y < 54; y += 5)
            for (int x = 3; x < 96; x += 5) {
                const glm::dvec3 d = way_of(view, x, y);
                double depth = 0;
                const int steps = 4000;
                for (int i = 0; i < steps; ++i)
                    depth += air_at(m, d * (30 / -d.z * (i + 0.5) / steps)).extinction * (30 / -d.z / steps);
                least = std::min(least, std::exp(-depth));
                worst = std::max(worst, std::abs(t.pixel(x, y)[0] - std::exp(-depth)));
            }
        QVERIFY2(worst < 0.08 && least < 0.5, qPrintable(QString("%1, %2").arg(worst).arg(least)));
    }

    /// History on a still scene settles at what stands without it; a light that goes off leaves next to nothing behind
    /// within eight frames.
    void history_settles_and_forgets_lights() {
        Scene scene = fog_room(true);
        const View view = view_from({0, 1, 2}, {0, 1, -10}, 96, 72);
        const Values more = {{"shadow.maps", "on"}, {"light.threshold", "0.0001"}};
        Values kept = more;
        kept.emplace_back("air.history", "on");
        const FloatImage plain = hdr(scene, cells(more), view);
        const FloatImage settled = record_floats(scene, cells(kept), view, 32);
        std::vector<double> a, b;
        for (std::size_t i = 0; i < plain.data.size(); i += 4) {
            a.push_back(luminance_of(&plain.data[i]));
            b.push_back(luminance_of(&settled.data[i]));
        }
        const Off o = off(b, a, std::vector<bool>(a.size(), true));
        qInfo("settled: mean %.3f %%, worst %.2f %% of the 99th percentile", 100 * o.mean, 100 * o.worst);
        QVERIFY(o.mean < 0.01);
        const double lit = sum_of(settled);
        scene.lights[0].enabled = false;
        double left = 1;
        for (int frame = 0; frame < 8; ++frame)
            left = sum_of(record_floats(scene, cells(kept), view, 0)) / lit;
        QVERIFY2(left < 0.01, qPrintable(QString::number(left)));
    }

    /// The camera moves on: with reprojection the light stays where it is.
    void history_follows_the_camera() {
        const Scene scene = fog_room(true);
        View view = view_from({0, 1, 2}, {0, 1, -10}, 96, 72);
        const Values kept = {{"shadow.maps", "on"},
                             {"light.threshold", "0.0001"},
                             {"air.history", "on"},
                             {"air.jitter", "off"},
                             {"air.cell", "4"}};
        double off[2] = {};
        for (const bool followed : {true, false}) {
            Values more = kept;
            more.emplace_back("air.reproject", followed ? "on" : "off");
            View moving = view;
            (void)record_floats(scene, cells(more), moving, 32);
            FloatImage got;
            for (int i = 0; i < 3; ++i) {
                moving.camera.aim.x += 1.5f;
                got = record_floats(scene, cells(more), moving, 0);
            }
            const FloatImage wanted =
                hdr(scene, cells({{"shadow.maps", "on"}, {"light.threshold", "0.0001"}, {"air.cell", "4"}}), moving);
            for (std::size_t i = 0; i < got.data.size(); i += 4)
                off[followed] += std::abs(luminance_of(&got.data[i]) - luminance_of(&wanted.data[i]));
        }
        QVERIFY2(off[1] < 0.5 * off[0], qPrintable(QString("%1 %2").arg(off[1]).arg(off[0])));
    }

    void both_eyes_see_what_each_would() {
        const Scene scene = random_scene(6, 12);
        View view = view_from({9, 5, 13}, {0, 1, 0}, 96, 54);
        for (const char* kind : {"froxels", "uniform"}) {
            const Setup s =
                cells({{"path.kind", "clustered-deferred"}, {"air.kind", kind}, {"air.lamps", "closed-form"}});
            FloatImage seen[2];
            int i = 0;
            for (const Stereo stereo : {Stereo::twoPasses, Stereo::onePass}) {
                view.stereo = stereo;
                seen[i++] = hdr(scene, s, view);
            }
            QVERIFY2(largest_relative_difference(seen[0], seen[1], 1e-2) < 2e-3, kind);
        }
    }

    /// Fog on the way to surfaces: each lamp's light by the exponential of its distance, in account and picture.
    void fog_dims_lamps_where_it_is_asked_to() {
        const Scene scene = random_scene(6, 12);
        const View view = view_from({9, 5, 13}, {0, 1, 0}, 96, 54);
        for (const char* kind : {"uniform", "height", "froxels"}) {
            const Setup s = cells({{"air.kind", kind}, {"air.dimsLights", "on"}, {"path.kind", "deferred"}});
            for (const glm::ivec2 pixel : {glm::ivec2(48, 30), {20, 44}}) {
                const PixelAccount a = account_at(scene, s, view, pixel);
                QVERIFY2(a.difference < 5e-3, qPrintable(QString("%1: %2").arg(kind).arg(a.difference)));
                int dimmed = 0;
                for (const LightTerm& t : a.surfaces.back().lights)
                    for (const LightFactor& f : t.factors)
                        if (f.name == "air" && f.value.x < 1 && f.value.x > 0) ++dimmed;
                QVERIFY(dimmed > 3);
            }
        }
    }

    /// Odd values have defined results.
    void odd_values_are_defined() {
        Scene scene = fog_room(false);
        scene.lights[0].position = {0, 0, 0}; // the eye is within the lamp
        scene.lights[0].direction = {0, -1, 0};
        const View view = view_from({0, 0, 0}, {0, 0, -1}, 64, 36);
        for (const Values& more :
             {Values{}, Values{{"air.kind", "uniform"}, {"air.lamps", "closed-form"}},
              Values{{"air.extinction", "0.0001"}, {"air.albedo", "1,1,1"}}, Values{{"air.extinction", "10"}},
              Values{{"air.anisotropy", "0.95"}}, Values{{"air.far", "1"}, {"air.slices", "8"}, {"air.cell", "64"}}}) {
            const FloatImage got = hdr(scene, cells(more), view);
            for (const float v : got.data)
                QVERIFY(std::isfinite(v) && v >= 0);
        }
        View tiny = view;
        tiny.width = tiny.height = 1;
        QVERIFY(std::isfinite(hdr(scene, cells(), tiny).pixel(0, 0)[0]));
    }
};

MIROLUX_TEST(froxels_test)
#include "froxels_test.moc"

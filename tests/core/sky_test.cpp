#include "core/ambient/ambient_light.h"
#include "core/light/luminance.h"
#include "core/sky/sky.h"
#include "core/sky/sky_model.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QtTest>

using namespace mirolux;
using namespace mirolux::test;

static const double degree = glm::pi<double>() / 180;

static glm::dvec3 toward(double elevation, double azimuth) {
    return direction_of({elevation, azimuth});
}

static bool near(const glm::dvec3& a, const glm::dvec3& b, double share) {
    const glm::dvec3 d = glm::abs(a - b) / glm::max(glm::abs(b), glm::dvec3(1e-30));
    return std::max({d.x, d.y, d.z}) <= share;
}

static Setup with(std::initializer_list<std::pair<const char*, const char*>> values) {
    Setup s;
    for (const auto& [key, value] : values)
        if (auto ok = s.set_text(key, value); !ok) qFatal("%s", to_text(ok.error()).c_str());
    return s;
}

class sky_test : public QObject {
    Q_OBJECT
private slots:
    /// Published figures for these coefficients: what is left of the sun at the eye.
    void the_sun_keeps_its_share_through_clear_air() {
        const Atmosphere air;
        QVERIFY(near(transmittance_out(air, 2, std::sin(30 * degree)), {0.885, 0.754, 0.582}, 0.02));
        QVERIFY(near(transmittance_out(air, 2, std::sin(5 * degree)), {0.544, 0.250, 0.064}, 0.02));
        QCOMPARE(transmittance_out(air, 2, -0.5), glm::dvec3(0.0)); // through the ground
    }

    /// Straight up the optical depth of an exponential layer is coefficient times scale height, of the ozone's tent its
    /// half width.
    void straight_up_the_depth_has_a_closed_form() {
        const Atmosphere air;
        const auto column = [](double height) { return height * (1 - std::exp(-100000 / height)); };
        const glm::dvec3 depth =
            air.rayleigh * column(8000) + (air.mieScattering + air.mieAbsorption) * column(1200) + air.ozone * 15000.0;
        QVERIFY(near(optical_depth_out(air, 0, 1, 320), depth, 1e-3));
    }

    /// One straight line down through even air is as long as geometry says, near the ground as far out.
    void ways_through_a_ball_have_their_lengths() {
        const Atmosphere air;
        for (const double height : {0.5, 2.0, 3000.0, 90000.0})
            for (const double elevation : {-80.0, -20.0, -0.1, 0.0, 3.0, 45.0, 90.0}) {
                const AirPath path{air, height, std::sin(elevation * degree)};
                const double t = path.end(), r = path.radius();
                const double ended = std::sqrt(r * r + t * t + 2 * r * t * path.sine);
                const double wanted = path.meets_ground() ? air.groundRadius : air.topRadius;
                QVERIFY(std::abs(ended - wanted) < 0.5);
                QVERIFY(std::abs(path.height_at(t) - (wanted - air.groundRadius)) < 0.5);
            }
        const AirPath beside{air, 400000, 0.2}, onto{air, 400000, -1};
        QCOMPARE(beside.end(), 0.0);
        QVERIFY(std::abs(onto.from() - 300000) < 1e-3 && std::abs(onto.end() - 400000) < 1e-3);
    }

    void phase_functions_sum_to_one() {
        for (const double g : {-0.9, -0.3, 0.0, 0.5, 0.8, 0.95}) {
            double mie = 0, rayleigh = 0;
            const int steps = 200000;
            for (int i = 0; i < steps; ++i) {
                const double c = -1 + 2 * (i + 0.5) / steps, solid = 4 * glm::pi<double>() / steps;
                mie += mie_phase(c, g) * solid;
                rayleigh += rayleigh_phase(c) * solid;
            }
            QVERIFY(std::abs(mie - 1) < 1e-3 && std::abs(rayleigh - 1) < 1e-6);
        }
    }

    /// The tables' single scattering against both ways' optical depths integrated along the ray, without a table.
    void tables_match_direct_integration() {
        const auto tables = sky_tables(Atmosphere{});
        double worst = 0;
        for (const double sun : {2.0, 5.0, 20.0, 60.0})
            for (const double azimuth : {0.0, 40.0, 180.0})
                for (const double elevation : {0.5, 3.0, 15.0, 60.0}) {
                    const glm::dvec3 d = toward(elevation, azimuth), s = toward(sun, 0);
                    const glm::dvec3 wanted = single_scattering(Atmosphere{}, 2, d, s, 0.00925, 300),
                                     got = tables->radiance(2, d, s, 0.00925, SkyTableSizes::marchSteps, true);
                    for (int c = 0; c < 3; ++c)
                        worst = std::max(worst, std::abs(got[c] - wanted[c]) / std::max(wanted[c], 1e-5));
                }
        QVERIFY2(worst < 0.02, qPrintable(QString::number(worst)));
    }

    /// Air and ground that swallow nothing give back what they get: up over down at the ground.
    void nothing_is_lost_where_nothing_is_swallowed() {
        Atmosphere air;
        air.mieAbsorption = air.ozone = glm::dvec3(0.0);
        air.groundAlbedo = 1;
        const auto tables = sky_tables(air);
        for (const double elevation : {5.0, 30.0, 80.0}) {
            const glm::dvec3 sun = toward(elevation, 90);
            glm::dvec3 up(0.0), down = transmittance_out(air, 2, sun.y) * sun.y;
            const int rows = 120, columns = 24;
            for (int i = 0; i < rows; ++i)
                for (int j = 0; j < columns; ++j) {
                    const double y = 1 - 2 * (i + 0.5) / rows, ring = std::sqrt(1 - y * y),
                                 turn = 2 * glm::pi<double>() * (j + 0.5) / columns;
                    const glm::dvec3 d(ring * std::cos(turn), y, ring * std::sin(turn)),
                        light = tables->radiance(2, d, sun, 0.00925, 40, false) *
                                (4 * glm::pi<double>() / (rows * columns));
                    (y > 0 ? down : up) += light * std::abs(y);
                }
            QVERIFY(near(up, down, 0.10));
            const glm::dvec3 scattered = tables->ground(sun.y); // and the sky alone, against the table of the ground
            QVERIFY(near(scattered, down - transmittance_out(air, 2, sun.y) * sun.y, 0.05));
        }
    }

    /// A place on a line is as bright through two pieces of air as through one.
    void pieces_of_air_join() {
        const auto tables = sky_tables(atmosphere_preset("haze"));
        const glm::dvec3 d = toward(3, 200), s = toward(20, 150);
        glm::dvec3 near_(0.0), far(0.0);
        const glm::dvec3 a = tables->inscattered(10, d, s, 0.00925, 4000, 64, false, near_),
                         b = tables->inscattered(10, d, s, 0.00925, 9000, 128, false, far);
        QVERIFY(near_.x > far.x && b.x > a.x);
        const AirPath path{tables->air(), 10, d.y};
        glm::dvec3 rest(0.0);
        const double there = path.height_at(4000);
        const glm::dvec3 c = tables->inscattered(there, d, s, 0.00925, 5000, 128, false, rest);
        QVERIFY(near(near_ * rest, far, 2e-3) && near(a + near_ * c, b, 1e-2));
    }

    /// I. Reda and A. Andreas, Solar Position Algorithm for Solar Radiation Applications, 2004, table A4.1.
    void the_sun_stands_where_it_should() {
        const SkyPlace sun = sun_at({39.742476, -105.1786, 2003, 10, 17, 12 + 30.0 / 60 + 30.0 / 3600, -7});
        QVERIFY(std::abs(90 - sun.elevation - 50.11162) < 0.05);
        QVERIFY(std::abs(sun.azimuth - 194.34024) < 0.05);
        // On the equator at the equinox it passes near the zenith.
        QVERIFY(sun_at({0, 0, 2026, 3, 20, 12.12, 0}).elevation > 89);
        // Beyond the polar circle it does not rise at midwinter, nor set at midsummer.
        QVERIFY(sun_at({75, 0, 2026, 12, 21, 12, 0}).elevation < 0 && sun_at({75, 0, 2026, 6, 21, 0, 0}).elevation > 0);
    }

    /// J. Meeus, Astronomical Algorithms, 1991, example 47.a.
    void the_moon_stands_where_it_should() {
        const PlaceAndTime when{0, 0, 1992, 4, 12, 0, 0};
        QCOMPARE(julian_date(when), 2448724.5);
        const glm::dvec3 moon = moon_on_ecliptic(julian_date(when));
        QVERIFY(std::abs(moon.x - 133.162655) < 0.3 && std::abs(moon.y + 3.229126) < 0.3 &&
                std::abs(moon.z - 0.991990) < 0.02);
        QVERIFY(moon_phase_light(0) == 1.0 && moon_phase_light(90 * degree) < 0.12);
        const glm::dvec3 to = toward(20, 90);
        QVERIFY(std::abs(moon_phase_angle(to, -to)) < 1e-6 &&
                std::abs(moon_phase_angle(to, to) - glm::pi<double>()) < 1e-6);
    }

    void places_and_directions_turn_into_each_other() {
        QVERIFY(glm::length(toward(0, 0) - glm::dvec3(0, 0, -1)) < 1e-12); // north
        QVERIFY(glm::length(toward(0, 90) - glm::dvec3(1, 0, 0)) < 1e-12); // east
        for (const double azimuth : {3.0, 120.0, 359.0}) {
            const SkyPlace back = place_of(toward(-17, azimuth));
            QVERIFY(std::abs(back.elevation + 17) < 1e-9 && std::abs(back.azimuth - azimuth) < 1e-9);
        }
    }

    /// The zenith of the fit is the published polynomial; the sky is brightest beside the sun.
    void the_fitted_sky_follows_its_paper() {
        const double t = 2.5, elevation = 40, chi = (4.0 / 9 - t / 120) * (glm::pi<double>() - 2 * 50 * degree);
        const FittedSky fit = fitted_sky(t, std::sin(elevation * degree), 128000);
        const glm::dvec3 zenith = fitted_radiance(fit, 1, std::sin(elevation * degree));
        const double wanted = 1000 * ((4.0453 * t - 4.9710) * std::tan(chi) - 0.2155 * t + 2.4192);
        QVERIFY(std::abs(luminance(zenith) - wanted) < 0.002 * wanted);
        QVERIFY(zenith.z > 1.3 * zenith.x); // blue
        const glm::dvec3 sun = toward(elevation, 0);
        const auto at = [&](double e, double a) {
            const glm::dvec3 d = toward(e, a);
            return luminance(fitted_radiance(fit, d.y, glm::dot(d, sun)));
        };
        QVERIFY(at(40, 2) > at(40, 60) && at(40, 60) > at(40, 120));
        double before = 1e30;
        for (const double e : {10.0, 0.0, -3.0, -10.0}) { // dusk falls evenly
            const double now = luminance(fitted_radiance(fitted_sky(t, std::sin(e * degree), 128000), 1, 0));
            QVERIFY(now < before && now > 0);
            before = now;
        }
    }

    /// All light of a star, whatever disc it is spread over; and as many of them as the sky has.
    void stars_keep_their_light_and_number() {
        const StarField field;
        int stars = 0, bright = 0;
        std::optional<Star> one;
        for (int face = 0; face < 6; ++face)
            for (int j = 0; j < 48; ++j)
                for (int i = 0; i < 48; ++i) {
                    glm::dvec3 d(0.0);
                    d[face / 2] = face % 2 ? -1 : 1;
                    d[(face / 2 + 1) % 3] = std::tan(((i + 0.5) / 48 - 0.5) * glm::half_pi<double>());
                    d[(face / 2 + 2) % 3] = std::tan(((j + 0.5) / 48 - 0.5) * glm::half_pi<double>());
                    const auto star = star_near(field, glm::normalize(d));
                    if (!star) continue;
                    ++stars;
                    bright += star->magnitude < 4.5;
                    const auto again = star_near(field, star->direction); // it lies in its own cell
                    QVERIFY(again && glm::length(again->direction - star->direction) < 1e-12);
                    if (star->magnitude < 2) one = star;
                }
        QVERIFY2(stars > 8000 && stars < 10000, qPrintable(QString::number(stars)));
        QVERIFY2(bright > 0.6 * stars * std::pow(10, -1.02) && bright < 1.4 * stars * std::pow(10, -1.02),
                 qPrintable(QString::number(bright)));
        QVERIFY(one.has_value());
        const glm::dvec3 side = glm::normalize(glm::cross(one->direction, glm::dvec3(0.3, 1, 0.2))),
                         other = glm::cross(one->direction, side);
        for (const double pixel : {0.0005, 0.002}) {
            double sum = 0;
            const int steps = 400;
            const double reach = 1.5 * 1.3 * pixel;
            for (int y = 0; y < steps; ++y)
                for (int x = 0; x < steps; ++x) {
                    const glm::dvec3 d = glm::normalize(one->direction + side * ((2 * (x + 0.5) / steps - 1) * reach) +
                                                        other * ((2 * (y + 0.5) / steps - 1) * reach));
                    sum += luminance(star_radiance(field, d, pixel));
                }
            sum *= 4 * reach * reach / (steps * steps);
            QVERIFY(std::abs(sum - lux_of_magnitude(one->magnitude)) < 0.01 * sum);
        }
        QVERIFY(std::abs(lux_of_magnitude(0) / lux_of_magnitude(5) - 100) < 1e-9);
    }

    /// Light of a disc, over all pixels that it covers, is what the light of the scene has.
    void discs_give_what_the_light_has() {
        const Scene scene{finished(SceneAsset{}), {}, {}, {}};
        for (const char* elevation : {"50", "8"}) {
            const Setup s = with({{"sky.kind", "atmosphere"}, {"sun.elevation", elevation}, {"sky.multiple", "off"}});
            View view = view_from({0, 2, 0}, {0, 2, -1}, 64, 64);
            const SkySettings settings = sky_settings(scene, s, view);
            const SkyModel model(settings);
            const glm::dvec3 to = settings.sun.direction, side = glm::normalize(glm::cross(to, glm::dvec3(0, 1, 0))),
                             up = glm::cross(side, to);
            const double reach = 0.006, pixel = 0.0001;
            glm::dvec3 sum(0.0);
            const int steps = 160;
            for (int y = 0; y < steps; ++y)
                for (int x = 0; x < steps; ++x) {
                    const glm::dvec3 d = glm::normalize(to + side * ((2 * (x + 0.5) / steps - 1) * reach) +
                                                        up * ((2 * (y + 0.5) / steps - 1) * reach));
                    sum += model.seen(d, pixel) - model.radiance(d);
                }
            sum *= 4 * reach * reach / (steps * steps);
            QVERIFY(near(sum, light_at_eye(settings, settings.sun), 0.02));
        }
    }

    /// Harmonics of order 2 hold irradiance of a sky to a few percent, and its own integral agrees.
    void harmonics_light_as_the_sky_does() {
        const Scene scene{finished(SceneAsset{}), {}, {}, {}};
        const Setup s = with({{"sky.kind", "atmosphere"}, {"sun.elevation", "35"}, {"ambient.kind", "environment"}});
        const View view = view_from({0, 2, 0}, {0, 2, -1}, 64, 64);
        const AmbientLight ambient = ambient_light(scene, s, view);
        QVERIFY(ambient.sky != nullptr);
        const glm::dvec3 up = ambient_radiance(ambient, {0, 1, 0}) * glm::pi<double>();
        QVERIFY(near(up, ambient.sky->irradiance(), 0.12)); // as far as harmonics of order 2 hold a horizon
        QVERIFY(
            near(ambient.sky->irradiance(), sky_tables(Atmosphere{})->ground(std::sin(35 * degree)) * 128000.0, 0.03));
        const glm::dvec3 toSun = ambient_radiance(ambient, toward(0, 180)),
                         away = ambient_radiance(ambient, toward(0, 0));
        QVERIFY(luminance(toSun) > 1.1 * luminance(away)); // walls toward the sun get more of its glow
        QVERIFY(mean_radiance(ambient).z > 0);
    }

    void the_named_light_becomes_the_sun() {
        Scene scene = random_scene(3, 5);
        Light a, b;
        a.type = b.type = LightType::directional;
        a.name = "first";
        b.name = "second";
        a.id = 900;
        b.id = 901;
        a.intensity = b.intensity = 7;
        scene.lights = {a, b};
        const View view = view_from({0, 2, 0}, {0, 2, -1}, 64, 64);
        const auto lights = [&](std::initializer_list<std::pair<const char*, const char*>> values) {
            return lights_of(scene, with(values), view);
        };
        QVERIFY(lights({}) == scene.lights); // two colours have no sun
        auto l = lights({{"sky.kind", "atmosphere"}, {"sun.elevation", "30"}, {"sun.azimuth", "90"}});
        QVERIFY(glm::length(glm::dvec3(l[0].direction) + toward(30, 90)) < 1e-6 && l[1] == b);
        QVERIFY(near(glm::dvec3(l[0].color * l[0].intensity) / 128000.0, {0.885, 0.754, 0.582}, 0.02));
        l = lights({{"sky.kind", "fitted"}, {"sun.light", "second"}});
        QVERIFY(l[0] == a && l[1].intensity > 50000);
        l = lights({{"sky.kind", "atmosphere"}, {"sun.light", "nobody"}});
        QVERIFY(l == scene.lights);
        l = lights(
            {{"sky.kind", "atmosphere"}, {"sun.elevation", "-30"}, {"sun.azimuth", "0"}, {"moon.elevation", "40"}});
        QVERIFY(l[0].intensity > 0.01f && l[0].intensity < 0.3f); // the moon
        QVERIFY(std::abs(-l[0].direction.y - std::sin(40 * degree)) < 1e-6);
        l = lights({{"sky.kind", "atmosphere"}, {"sun.elevation", "-30"}, {"moon.elevation", "-40"}});
        QCOMPARE(l[0].intensity, 0.0f); // neither stands over the horizon
        QVERIFY(build_draw_list(scene,
                                with({{"sky.kind", "atmosphere"}, {"sun.elevation", "-30"}, {"moon.elevation", "-40"}}),
                                view)
                    .lights.size() == 1);
    }

    void a_sky_without_a_light_is_said() {
        const View view = view_from({0, 2, 0}, {0, 2, -1}, 64, 64);
        Scene scene = random_scene(3, 5);
        std::erase_if(scene.lights, [](const Light& l) { return l.type == LightType::directional; });
        QVERIFY(plan_frame(scene, Setup(), view).notes.empty());
        const auto notes = plan_frame(scene, with({{"sky.kind", "fitted"}}), view).notes;
        QVERIFY(notes.size() == 1 && notes[0].find("no directional light") != std::string::npos);
        const auto named = plan_frame(scene, with({{"sky.kind", "atmosphere"}, {"sun.light", "lantern"}}), view).notes;
        QVERIFY(named.size() == 1 && named[0].find("lantern") != std::string::npos);
    }

    /// By day the moon's part in the sky is left out: what it would have added is under a ten-thousandth.
    void by_day_the_moon_is_lost_in_the_sky() {
        const View view = view_from({0, 2, 0}, {0, 2, -1}, 64, 64);
        const Scene scene{finished(SceneAsset{}), {}, {}, {}};
        SkySettings s = sky_settings(scene, with({{"sky.kind", "atmosphere"}, {"sun.elevation", "0.1"}}), view);
        QCOMPARE(s.moonlight(), 0.0);
        const auto tables = sky_tables(s.air);
        const glm::dvec3 d = toward(60, 10),
                         sun = tables->radiance(2, d, s.sun.direction, s.sun.angle, 32, false) * s.sun.illuminance,
                         moon = tables->radiance(2, d, s.moon.direction, s.moon.angle, 32, false) * 0.26; // a full one
        QVERIFY(luminance(moon) < 1e-4 * luminance(sun));
        s.sun.direction = toward(-20, 0);
        QCOMPARE(s.moonlight(), s.moon.illuminance);
    }

    void the_horizon_cuts_a_disc_evenly() {
        const Atmosphere air;
        const double horizon = -std::sqrt(2 * (2 * 6360e3 + 2)) / (6360e3 + 2);
        QVERIFY(std::abs(over_horizon(air, 2, horizon, 0.00925) - 0.5) < 1e-6);
        QCOMPARE(over_horizon(air, 2, horizon + 0.01, 0.00925), 1.0);
        QCOMPARE(over_horizon(air, 2, horizon - 0.01, 0.00925), 0.0);
    }

    /// No sun, no air, an eye in space: everything stays defined.
    void strange_skies_stay_defined() {
        const Scene scene{finished(SceneAsset{}), {}, {}, {}};
        const View view = view_from({0, 2, 0}, {0, 2, -1}, 64, 64);
        for (const auto& setup :
             {with({{"sky.kind", "atmosphere"}, {"sun.elevation", "-90"}, {"moon.elevation", "-90"}}),
              with({{"sky.kind", "atmosphere"}, {"sky.altitude", "400000"}}),
              with({{"sky.kind", "atmosphere"}, {"sun.illuminance", "0"}, {"moon.illuminance", "0"}}),
              with({{"sky.kind", "atmosphere"},
                    {"sky.preset", "own"},
                    {"sky.rayleigh", "0,0,0"},
                    {"sky.mieScattering", "0,0,0"},
                    {"sky.mieAbsorption", "0,0,0"},
                    {"sky.ozone", "0,0,0"}}),
              with({{"sky.kind", "fitted"}, {"sun.elevation", "-90"}}),
              with({{"sky.kind", "atmosphere"}, {"sky.altitude", "-100"}})}) {
            const SkyModel model(sky_settings(scene, setup, view));
            for (const double elevation : {-90.0, -30.0, 0.0, 1.0, 90.0}) {
                const glm::dvec3 l = model.seen(toward(elevation, 10), 0.001);
                QVERIFY(std::isfinite(l.x + l.y + l.z) && l.x >= 0 && l.y >= 0 && l.z >= 0);
            }
        }
    }
};

MIROLUX_TEST(sky_test)
#include "sky_test.moc"

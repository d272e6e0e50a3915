#include "core/light/brdf.h"
#include "core/light/falloff.h"
#include "core/light/handles.h"
#include "core/light/tone.h"
#include "core/plan/draw_list.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QtTest>
#include <glm/gtc/constants.hpp>

using namespace mirolux;
using namespace mirolux::test;

class light_test : public QObject {
    Q_OBJECT
private slots:
    void irradiance_falls_with_the_square_and_ends_at_the_range() {
        QCOMPARE(distance_attenuation(2.0, 0, 0, RangeWindow::squared), 0.25);
        QCOMPARE(distance_attenuation(5.0, 5.0, 0, RangeWindow::squared), 0.0);
        QVERIFY(distance_attenuation(4.99, 5.0, 0, RangeWindow::unsquared) >
                distance_attenuation(4.99, 5.0, 0, RangeWindow::squared));
        QCOMPARE(distance_attenuation(3.0, 0, 2.9, RangeWindow::squared), 0.0);
    }

    void lumen_and_candela_convert_both_ways() {
        Light l;
        l.intensity = 100;
        QVERIFY(std::abs(intensity_in(l, IntensityUnit::lumen) - 100 * 4 * glm::pi<float>()) < 1e-2f);
        l.type = LightType::spot;
        l.outerConeAngle = glm::half_pi<float>(); // half the sphere: 2 pi
        QVERIFY(std::abs(intensity_in(l, IntensityUnit::lumen) - 100 * glm::two_pi<float>()) < 1e-2f);
        QVERIFY(std::abs(intensity_from(l, IntensityUnit::lumen, intensity_in(l, IntensityUnit::lumen)) - 100) < 1e-3f);
    }

    void colour_of_daylight_is_near_white_and_candle_is_red() {
        const glm::vec3 day = color_of_kelvin(6504), candle = color_of_kelvin(1900);
        QVERIFY(glm::length(day - glm::vec3(1)) < 0.09f); // the Planckian point lies a little off D65
        QVERIFY(candle.r == 1.0f && candle.g < 0.5f && candle.b < 0.15f);
    }

    /// Every point that a spot or a point light reaches lies in its bounding sphere, and in every box that holds it.
    void bounds_hold_all_that_is_lit() {
        std::mt19937 r(7);
        for (int i = 0; i < 4000; ++i) {
            Light l;
            l.type = i % 2 ? LightType::spot : LightType::point;
            l.position = {random_in(r, -5, 5), random_in(r, -5, 5), random_in(r, -5, 5)};
            l.direction = glm::normalize(glm::vec3(random_in(r, -1, 1), random_in(r, -1, 1), random_in(r, -1, 1)) +
                                         glm::vec3(1e-3f));
            l.outerConeAngle = glm::radians(random_in(r, 1, 90));
            l.range = random_in(r, 0.5f, 8);
            const Sphere s = light_bounds(l, l.range);
            const glm::vec3 p =
                l.position + glm::normalize(glm::vec3(random_in(r, -1, 1), random_in(r, -1, 1), random_in(r, -1, 1)) +
                                            glm::vec3(1e-4f)) *
                                 l.range * random01(r);
            const bool lit = l.type == LightType::point ||
                             glm::dot(glm::normalize(p - l.position), l.direction) >= std::cos(l.outerConeAngle);
            if (!lit) continue;
            QVERIFY(glm::length(p - s.center) <= s.radius * 1.0001f + 1e-4f);
            const Box box{p - glm::vec3(random01(r), random01(r), random01(r)),
                          p + glm::vec3(random01(r), random01(r), random01(r))};
            QVERIFY(reaches(l, l.range, box));
        }
    }

    void ggx_lobe_reflects_all_light_at_low_roughness_and_never_more() {
        QVERIFY(std::abs(brdf::ggx_directional_albedo(0.9, 0.2, 800) - 1.0) < 0.01);
        for (const double roughness : {0.2, 0.5, 0.8, 1.0})
            for (const double c : {0.2, 0.6, 1.0}) {
                const double a = brdf::ggx_directional_albedo(c, roughness, 300);
                QVERIFY2(a <= 1.005 && a > 0.3,
                         qPrintable(QString("roughness %1 cosine %2: %3").arg(roughness).arg(c).arg(a)));
            }
    }

    /// What "energy-normalised" means: the reflected share at normal incidence stays near one for every exponent; the
    /// plain lobe's falls.
    void normalised_phong_keeps_its_energy() {
        auto share = [](double n, bool normalised) {
            double sum = 0;
            const int steps = 20000;
            for (int i = 0; i < steps; ++i) {
                const double c = (i + 0.5) / steps;
                sum += brdf::phong_lobe(c, n, normalised) * c;
            }
            return sum / steps * glm::two_pi<double>();
        };
        for (const double n : {4.0, 32.0, 256.0})
            QVERIFY(std::abs(share(n, true) - 1.0) < 1e-3);
        QVERIFY(share(256, false) < 0.05 * share(4, true));
    }

    void tone_curves_rise_and_stay_in_range() {
        double before = -1;
        for (int i = 0; i < 1000; ++i) {
            const double x = i * 0.02, f = tone::filmic(x);
            QVERIFY(f >= before && f <= 1.0);
            before = f;
        }
        QVERIFY(std::abs(tone::reinhard(4.0, 4.0) - 1.0) < 1e-12);
        QVERIFY(std::abs(tone::exposure_scale(0) - 1 / 1.2) < 1e-12);
    }

    void motions_sweep_shuttle_and_blink() {
        Light l;
        l.id = 3;
        l.direction = {1, 0, 0};
        const Motion sweep{3, MotionKind::sweep, 4.0f, 0, 6.2831853f, {}, 0.5f},
            blink{3, MotionKind::blink, 2.0f, 0, 0, {}, 0.5f},
            shuttle{3, MotionKind::shuttle, 2.0f, 0, 0, {2, 0, 0}, 0.5f};
        QVERIFY(std::abs(lights_at({l}, {sweep}, 1.0)[0].direction.x) < 1e-5f);
        QVERIFY(glm::length(lights_at({l}, {sweep}, 4.0)[0].direction - l.direction) < 1e-5f);
        QVERIFY(lights_at({l}, {blink}, 0.5)[0].enabled && !lights_at({l}, {blink}, 1.5)[0].enabled);
        QVERIFY(std::abs(lights_at({l}, {shuttle}, 1.0)[0].position.x - 2.0f) < 1e-5f);
    }

    void dragging_handles_does_what_their_names_say() {
        const View view = view_from({0, 3, 10}, {0, 1, 0}, 800, 600);
        Light l;
        l.type = LightType::spot;
        l.position = {0.5f, 2, 0};
        l.direction = {0, -1, 0};
        l.range = 6;
        l.innerConeAngle = 0.3f;
        l.outerConeAngle = 0.6f;
        auto ray = [&](const glm::vec3& p) {
            const auto at = project(view, p);
            return ray_through(view, at->x, at->y);
        };
        for (const Handle& h : handles_of(l, view, l.range))
            QVERIFY(project(view, h.position).has_value());
        const Light ground =
            dragged(l, HandleKind::ground, view, ray(l.position), ray(l.position + glm::vec3(1, 0, -2)), {}, 6);
        QVERIFY(glm::length(ground.position - (l.position + glm::vec3(1, 0, -2))) < 1e-3f);
        const Light up =
            dragged(l, HandleKind::axisY, view, ray(l.position), ray(l.position + glm::vec3(0, 0.7f, 0)), {}, 6);
        QVERIFY(glm::length(up.position - (l.position + glm::vec3(0, 0.7f, 0))) < 1e-2f);
        const Light aimed = dragged(l, HandleKind::aim, view, ray(l.position), ray({2, 0, 1}), glm::vec3(2, 0, 1), 6);
        QVERIFY(glm::length(aimed.direction - glm::normalize(glm::vec3(2, 0, 1) - l.position)) < 1e-5f);
        const glm::vec3 side = handle_side(l, view),
                        rim = l.position + (l.direction * std::cos(0.9f) + side * std::sin(0.9f)) * 3.0f;
        QVERIFY(std::abs(dragged(l, HandleKind::outerCone, view, ray(l.position), ray(rim), {}, 6).outerConeAngle -
                         0.9f) < 1e-3f);
        const Light narrow =
            dragged(l, HandleKind::outerCone, view, ray(l.position),
                    ray(l.position + (l.direction * std::cos(0.1f) + side * std::sin(0.1f)) * 3.0f), {}, 6);
        QVERIFY(narrow.innerConeAngle <= narrow.outerConeAngle); // glTF's order of the two angles
        const Light longer = dragged(l, HandleKind::range, view, ray(l.position + l.direction * 2.0f),
                                     ray(l.position + l.direction * 3.0f), {}, 6);
        QVERIFY(std::abs(longer.range - 7.0f) < 1e-2f);
    }
};

MIROLUX_TEST(light_test)
#include "light_test.moc"

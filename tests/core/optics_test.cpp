#include "core/ambient/split_sum.h"
#include "core/surface/subsurface.h"
#include "core/truth/sampler.h"
#include "core/truth/scattering.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include "support/traced.h"
#include <QtTest>
#include <random>

using namespace mirolux;
using namespace mirolux::test;

namespace {

brdf::Surface coated_surface(double metallic, double roughness, float coat, float coatRoughness) {
    brdf::Surface s{glm::dvec3(1), metallic, roughness};
    s.optics.coat = coat;
    s.optics.coatRoughness = coatRoughness;
    return s;
}

/// What a viewer sees of the surface under radiance 1, by the midpoint rule in the cosine's measure.
double sent_back(const brdf::Surface& surface, double cosView, int rings) {
    const glm::dvec3 n(0, 0, 1), view(std::sqrt(1 - cosView * cosView), 0, cosView);
    double sum = 0;
    for (int i = 0; i < rings; ++i) {
        const double z2 = (i + 0.5) / rings, z = std::sqrt(z2), s = std::sqrt(1 - z2);
        for (int j = 0; j < 2 * rings; ++j) {
            const double turn = glm::pi<double>() * (j + 0.5) / (2 * rings);
            const brdf::Lobes l = brdf::evaluate(brdf::Model::ggx, surface, 0, true, n,
                                                 {s * std::cos(turn), s * std::sin(turn), z}, view);
            sum += (l.diffuse.x + l.specular.x) * (glm::pi<double>() / (2.0 * rings * rings));
        }
    }
    return sum;
}

/// The profile at a distance from where light enters, per area, of root mean square 1 along one axis.
double profile_at(double r) {
    double sum = 0;
    for (const ScatterGaussian& g : scatter_profile())
        sum += g.weight / (2 * glm::pi<double>() * g.variance) * std::exp(-r * r / (2 * g.variance));
    return sum;
}

} // namespace

/// Coats, indices of refraction, and light beneath surfaces.
class optics_test : public QObject {
    Q_OBJECT
private slots:
    void indices_and_strengths_become_what_is_mirrored_straight_on() {
        const auto near = [](const glm::vec3& a, const glm::vec3& b) { return glm::length(a - b) < 1e-6f; };
        QVERIFY(near(dielectric_f0(1.5, glm::dvec3(1), 1), glm::vec3(0.04f)));
        QVERIFY(near(dielectric_f0(4.0 / 3, glm::dvec3(1), 1), glm::vec3(1.0f / 49)));
        QVERIFY(near(dielectric_f0(1.5, {1, 0.5, 100}, 0.5), {0.02f, 0.01f, 0.5f})); // at most all of it
        QVERIFY(near(dielectric_f0(0, glm::dvec3(1), 1), glm::vec3(1)));
        QVERIFY(near(dielectric_f0(1, glm::dvec3(1), 1), glm::vec3(0)));
    }

    /// What strength 0 leaves is Lambert's lobe alone.
    void no_specular_strength_no_mirror_image() {
        brdf::Surface s{glm::dvec3(0.6), 0, 0.3};
        s.optics.f0 = glm::vec3(0);
        s.optics.f90 = 0;
        const brdf::Lobes l =
            brdf::evaluate(brdf::Model::ggx, s, 0, true, {0, 0, 1}, glm::normalize(glm::dvec3(1, 0, 1)),
                           glm::normalize(glm::dvec3(-1, 0.2, 0.3)));
        QVERIFY(glm::length(l.specular) < 1e-12);
        QVERIFY(glm::length(l.diffuse - 0.6 * brdf::lambert()) < 1e-12);
    }

    /// A coat takes from beneath what it mirrors: no more comes back than arrives, and the sums that ambient light is
    /// shaded with are those of the lobes.
    void a_coat_gives_no_light_of_its_own() {
        for (const double metallic : {0.0, 1.0})
            for (const double c : {0.2, 0.6, 1.0})
                for (const float r : {0.25f, 0.6f}) {
                    const brdf::Surface s = coated_surface(metallic, 0.5, 0.9f, r);
                    const double wanted = sent_back(s, c, 500);
                    brdf::Surface bare = s; // which may give a little more than it gets, toward grazing
                    bare.optics.coat = 0;
                    const double most = std::max(1.0, sent_back(bare, c, 500));
                    QVERIFY2(wanted < most + 0.004 && wanted > 0.7, qPrintable(QString::number(wanted)));
                    const AmbientArrives one{glm::dvec3(1), glm::dvec3(1)};
                    const double got =
                        coated(ambient_reflected(brdf::Model::ggx, s, false, split_sum_table().at(c, 0.5), one), s, c,
                               split_sum_table().at(c, r), glm::dvec3(1))
                            .sum()
                            .x;
                    QVERIFY2(std::abs(got - wanted) < 0.008,
                             qPrintable(QString("metallic %1, cosine %2, coat %3: %4 for %5")
                                            .arg(metallic)
                                            .arg(c)
                                            .arg(r)
                                            .arg(got)
                                            .arg(wanted)));
                }
    }

    /// Directions are chosen as often as `density` says: their mean weight is the albedo.
    void paths_choose_a_coats_directions_as_they_say() {
        for (const double metallic : {0.0, 1.0})
            for (const double c : {0.3, 0.8}) {
                truth::Scattering s;
                s.surface = coated_surface(metallic, 0.6, 0.8f, 0.3f);
                s.normal = {0, 0, 1};
                s.toEye = {std::sqrt(1 - c * c), 0, c};
                std::mt19937 random(5);
                std::uniform_real_distribution<double> u(0, 1);
                double sum = 0;
                constexpr int samples = 400000;
                for (int i = 0; i < samples; ++i) {
                    const double x = u(random), y = u(random), lobe = u(random);
                    const glm::dvec3 l = s.choose({x, y}, lobe);
                    if (l.z <= 0) continue;
                    const brdf::Lobes lobes = s.lobes(l);
                    sum += (lobes.diffuse.x + lobes.specular.x) * l.z / s.density(l);
                }
                const double wanted = sent_back(s.surface, c, 600), got = sum / samples;
                QVERIFY2(std::abs(got - wanted) < 0.006, qPrintable(QString("%1 for %2").arg(got).arg(wanted)));
            }
    }

    void optics_are_numbered_once_each_and_at_most_as_many_as_fit() {
        SceneAsset a;
        for (int i = 0; i < 600; ++i) {
            mirolux::Material m;
            m.optics.coat = static_cast<float>(i % 300) / 300.0f;
            a.materials.push_back(m);
        }
        const auto without = number_optics(a);
        QCOMPARE(a.optics.size(), most_optics);
        QCOMPARE(without.size(), std::size_t(2 * (300 - 256)));
        QVERIFY(a.optics[0] == brdf::Optics{});
        for (const mirolux::Material& m : a.materials)
            QVERIFY(a.optics[static_cast<std::size_t>(m.opticsNumber)] == m.optics);
    }

    void the_blurs_taps_hold_the_profile() {
        for (const int taps : {9, 17, 33}) {
            const glm::dvec3 distance(0.006, 0.003, 0);
            const std::vector<ScatterTap> all = scatter_taps(distance, taps);
            QCOMPARE(all.size(), std::size_t(taps));
            glm::dvec3 sum(0.0), square(0.0);
            for (std::size_t i = 0; i < all.size(); ++i) {
                sum += all[i].weight;
                square += all[i].weight * (all[i].metres * all[i].metres);
                QVERIFY(std::abs(all[i].metres + all[all.size() - 1 - i].metres) < 1e-12);
                QVERIFY(glm::length(all[i].weight - all[all.size() - 1 - i].weight) < 1e-12);
            }
            QVERIFY(glm::length(sum - 1.0) < 1e-12);
            for (int c = 0; c < 2; ++c) // the tails beyond three distances lie on the last taps
                QVERIFY2(std::abs(std::sqrt(square[c]) / distance[c] - 1) < (taps < 17 ? 0.15 : 0.08),
                         qPrintable(QString::number(std::sqrt(square[c]) / distance[c])));
            QCOMPARE(square.z, 0.0);
        }
    }

    /// Against the profile itself, summed over an evenly lit face.
    void a_slab_lets_through_what_its_lit_face_spreads() {
        for (const double t : {0.0, 0.2, 0.6, 1.0, 2.0, 4.0}) {
            double wanted = 0;
            constexpr int rings = 40000;
            for (int i = 0; i < rings; ++i) {
                const double r = 12.0 * (i + 0.5) / rings;
                wanted += profile_at(std::sqrt(r * r + t * t)) * 2 * glm::pi<double>() * r * 12.0 / rings;
            }
            const double got = through_slab(t * 0.004, glm::dvec3(0.004)).x;
            QVERIFY2(std::abs(got - wanted) < 2e-4, qPrintable(QString("%1: %2 for %3").arg(t).arg(got).arg(wanted)));
        }
        QCOMPARE(through_slab(0.01, glm::dvec3(0)).x, 0.0);
    }

    /// However far light wraps, as much comes back from a ball as without.
    void a_wrapped_ramp_keeps_the_light() {
        for (const double w : {0.0, 0.3, 0.5, 1.0}) {
            double sum = 0;
            constexpr int steps = 20000;
            for (int i = 0; i < steps; ++i)
                sum += wrapped_ramp(-1 + 2 * (i + 0.5) / steps, glm::dvec3(w)).x * 2 * glm::pi<double>() * 2 / steps;
            QVERIFY2(std::abs(sum / glm::pi<double>() - 1) < 1e-4, qPrintable(QString::number(sum)));
        }
        QVERIFY(glm::length(wrap_of({0.004, 0.002, 0}, 0.5) - glm::dvec3(0.5, 0.25, 0)) < 1e-12);
    }

    /// A great ball has Lambert's shade but for a seam at its terminator, a small one is lit past it; light comes
    /// through only where it is let.
    void a_small_ball_glows_where_a_great_one_is_dark() {
        Setup s;
        brdf::Optics o;
        o.scatterDistance = {0.01f, 0.005f, 0.002f};
        QCOMPARE(ball_shade(s, o, 0.05, 0.5), glm::dvec3(0.5));
        QVERIFY(s.set_text("subsurface.kind", "blur").has_value());
        QVERIFY(glm::length(ball_shade(s, o, 10, 0.5) - 0.5) < 1e-3);
        QVERIFY(glm::length(ball_shade(s, o, 10, -0.5)) < 1e-3);
        const glm::dvec3 small = ball_shade(s, o, 0.02, -0.1);
        QVERIFY(small.x > 0.05 && small.x > small.y && small.y > small.z);
        QVERIFY(s.set_text("subsurface.thickness", "map").has_value());
        const glm::dvec3 lit = ball_shade(s, o, 0.02, -0.3);
        QVERIFY(s.set_text("subsurface.thickness", "none").has_value());
        QVERIFY(glm::length(lit - ball_shade(s, o, 0.02, -0.3) -
                            0.3 * through_slab(0.012, glm::dvec3(o.scatterDistance))) < 1e-12);
    }

    /// What is switched off leaves a plain surface, and the frame has nothing of it.
    void what_is_off_is_plain() {
        Scene scene = random_scene(4, 8);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        const auto has = [&](const Setup& s, const char* what) {
            const FramePlan p = plan_frame(scene, s, view);
            return std::find(p.surfaceDefines.begin(), p.surfaceDefines.end(), what) != p.surfaceDefines.end();
        };
        Setup s;
        QVERIFY(!has(s, "OPTICS"));
        give_optics(scene);
        QVERIFY(has(s, "OPTICS"));
        QVERIFY(s.set_text("shading.optics", "off").has_value());
        QVERIFY(!has(s, "OPTICS"));
        QVERIFY(s.set_text("subsurface.kind", "wrapped").has_value());
        QVERIFY(has(s, "OPTICS") && has(s, "SUBSURFACE_WRAPPED"));
        QVERIFY(shown_optics(scene.asset->materials[0].optics, s) == brdf::Optics{});
        QVERIFY(shown_optics(scene.asset->materials[1].optics, s).scatterDistance.x > 0.2f);
    }
};

MIROLUX_TEST(optics_test)
#include "optics_test.moc"

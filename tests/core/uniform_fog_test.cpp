#include "core/air/air.h"
#include "support/test_main.h"
#include <QtTest>

using namespace mirolux;

class uniform_fog_test : public QObject {
    Q_OBJECT
private slots:
    void transmittance_follows_beer_and_lambert() {
        Setup s;
        QVERIFY(s.set_text("air.kind", "uniform").has_value() && s.set_text("air.extinction", "0.05").has_value());
        const auto over = [fog = medium(s)](double metres) {
            return transmittance(fog, {1, 2, 3}, {1, 2, 3 + metres});
        };
        QCOMPARE(over(0), 1.0);
        QVERIFY(std::abs(over(20) - std::exp(-1.0)) < 1e-12);
        QVERIFY(std::abs(over(7) * over(13) - over(20)) < 1e-12); // one after the other
        QCOMPARE(transmittance(medium(Setup()), {0, 0, 0}, {0, 0, 1e6}), 1.0);
    }

    /// The mean over the sphere in closed form against a numeric integral of the definition.
    void mean_ambient_matches_numeric_integration() {
        Setup s;
        for (const char* kind : {"none", "constant", "gradient"}) {
            QVERIFY(s.set_text("ambient.kind", kind).has_value());
            const AmbientLight a = ambient_light(s);
            glm::dvec3 sum(0.0);
            const int steps = 20000;
            for (int i = 0; i < steps; ++i) // equal areas of the sphere are equal steps of y
                sum += ambient_radiance(a, glm::dvec3(0, 0, 0) + glm::dvec3(0, -1 + 2 * (i + 0.5) / steps, 0));
            const glm::dvec3 d = glm::abs(sum / double(steps) - mean_radiance(a));
            QVERIFY2(std::max({d.x, d.y, d.z}) < 1e-8, kind);
        }
    }

    void it_scatters_its_albedo_of_the_mean() {
        Setup s;
        QVERIFY(s.set_text("air.kind", "uniform").has_value() && s.set_text("ambient.kind", "constant").has_value());
        QVERIFY(s.set_text("ambient.constant", "2,4,8").has_value() &&
                s.set_text("air.albedo", "0.5,0.25,1").has_value());
        const glm::dvec3 scattered = fog_radiance(s, ambient_light(s));
        QVERIFY(glm::length(scattered - glm::dvec3(1, 1, 8)) < 1e-6);
    }
};

MIROLUX_TEST(uniform_fog_test)
#include "uniform_fog_test.moc"

#include "core/air/medium.h"
#include "support/test_main.h"
#include <QtTest>

using namespace mirolux;

static AirMedium fog_with(double extinction, double height, double base) {
    AirMedium f;
    f.shape = AirShape::byHeight;
    f.extinction = extinction;
    f.height = height;
    f.base = base;
    return f;
}

class height_fog_test : public QObject {
    Q_OBJECT
private slots:
    /// The closed form against numeric integration of the density along lines up, down, level, and through the base.
    void transmittance_matches_numeric_integration() {
        const AirMedium f = fog_with(0.05, 7, 2);
        const glm::dvec3 ends[] = {{40, 3, 0}, {40, 60, 9}, {1, -20, 5}, {-30, 2, 3}, {0, 2.000001, 50}, {3, 500, 0}};
        for (const glm::dvec3& from : {glm::dvec3(0, 2, 0), glm::dvec3(0, 30, 0), glm::dvec3(0, -9, 0)})
            for (const glm::dvec3& to : ends) {
                double depth = 0;
                const int steps = 200000;
                for (int i = 0; i < steps; ++i)
                    depth += density(f, glm::mix(from.y, to.y, (i + 0.5) / steps));
                depth *= f.extinction * glm::length(to - from) / steps;
                QVERIFY2(std::abs(transmittance(f, from, to) - std::exp(-depth)) < 1e-6,
                         qPrintable(QString("%1 to %2").arg(from.y).arg(to.y)));
            }
    }

    void it_joins_piece_by_piece_and_ends_far_up() {
        const AirMedium f = fog_with(0.02, 15, 0);
        const glm::dvec3 a(0, 1, 0), b(10, 6, 4), c = a + (b - a) * 3.0;
        QVERIFY(std::abs(transmittance(f, a, b) * transmittance(f, b, c) - transmittance(f, a, c)) < 1e-12);
        const glm::dvec3 d = glm::normalize(b - a);
        QVERIFY(std::abs(transmittance_of_ray(f, a, d) - transmittance(f, a, a + d * 5000.0)) < 1e-9);
        QCOMPARE(transmittance_of_ray(f, a, {1, 0, 0}), 0.0); // level, it never ends
        QCOMPARE(transmittance_of_ray(f, a, {0, -1, 0}), 0.0);
    }

    /// Very high fog is uniform fog.
    void a_great_height_is_uniform() {
        const AirMedium f = fog_with(0.01, 1e7, 0);
        QVERIFY(std::abs(transmittance(f, {0, 1, 0}, {30, 5, 40}) - std::exp(-0.01 * std::hypot(50.0, 4.0))) < 1e-6);
    }

    void off_lets_everything_through() {
        QCOMPARE(transmittance(AirMedium{}, {0, 0, 0}, {1e6, 0, 0}), 1.0);
        QVERIFY(!medium(Setup()).on());
    }
};

MIROLUX_TEST(height_fog_test)
#include "height_fog_test.moc"

#include "core/shadow/filterable_depth.h"
#include "support/test_main.h"
#include <QtTest>
#include <functional>
#include <random>

using namespace mirolux;

namespace {

struct Depths {
    std::vector<double> at, weight;

    glm::dvec4 means(const std::function<glm::dvec4(double)>& of) const {
        glm::dvec4 sum(0.0);
        for (std::size_t i = 0; i < at.size(); ++i)
            sum += weight[i] * of(at[i]);
        return sum;
    }
    /// Share of the light that reaches a depth: of the depths that do not lie before it.
    double lit(double depth) const {
        double sum = 0;
        for (std::size_t i = 0; i < at.size(); ++i)
            if (at[i] >= depth) sum += weight[i];
        return sum;
    }
};

Depths some_depths(std::mt19937& r, int count) {
    std::uniform_real_distribution<double> depth(-1, 1), weight(0.05, 1);
    Depths d;
    double sum = 0;
    for (int i = 0; i < count; ++i) {
        d.at.push_back(depth(r));
        d.weight.push_back(weight(r));
        sum += d.weight.back();
    }
    for (double& w : d.weight)
        w /= sum;
    return d;
}

glm::dvec4 powers(double z) {
    return {z, z * z, z * z * z, z * z * z * z};
}

struct Answers {
    double variance, exponential, moments;
};

constexpr double exponent = 10;

Answers answers(const Depths& d, double depth) {
    const glm::dvec4 m = d.means(powers), w = d.means([](double z) {
        const glm::dvec2 v = warped_depth(z, exponent);
        return glm::dvec4(v.x, v.x * v.x, v.y, v.y * v.y);
    });
    return {lit_by_variance({m.x, m.y}, depth, 0), lit_by_exponentials(w, depth, exponent, 0),
            lit_by_moments(m, depth, 1e-10)};
}

} // namespace

/// What blurred depths say of a point, against the depths themselves.
class filterable_depth_test : public QObject {
    Q_OBJECT

private slots:
    void no_answer_is_darker_than_the_depths() {
        std::mt19937 r(1);
        std::uniform_real_distribution<double> depth(-1, 1);
        Answers leaks{0, 0, 0};
        for (int i = 0; i < 20000; ++i) {
            const Depths d = some_depths(r, 2 + i % 7);
            const double z = depth(r), truth = d.lit(z);
            const Answers a = answers(d, z);
            for (const double lit : {a.variance, a.exponential, a.moments})
                QVERIFY2(lit >= truth - 2e-4 && lit <= 1, qPrintable(QString("%1 of %2").arg(lit).arg(truth)));
            leaks.variance += a.variance - truth;
            leaks.exponential += a.exponential - truth;
            leaks.moments += a.moments - truth;
        }
        qInfo("mean leak over random depths: variance %.3f, exponential %.3f, moments %.3f", leaks.variance / 20000,
              leaks.exponential / 20000, leaks.moments / 20000);
        QVERIFY(leaks.moments < leaks.variance && leaks.exponential < leaks.variance);
    }

    /// Two depths are told without error: by variance at the farther one, by moments everywhere else.
    void two_depths_are_told_exactly() {
        std::mt19937 r(2);
        for (int i = 0; i < 2000; ++i) {
            const Depths d = some_depths(r, 2);
            const double near = std::min(d.at[0], d.at[1]), far = std::max(d.at[0], d.at[1]);
            if (far - near < 0.05) continue;
            const Answers at = answers(d, far), between = answers(d, 0.5 * (near + far));
            QVERIFY2(std::abs(at.variance - d.lit(far)) < 1e-9, qPrintable(QString::number(at.variance)));
            QVERIFY2(std::abs(at.exponential - d.lit(far)) < 1e-6, qPrintable(QString::number(at.exponential)));
            QVERIFY2(std::abs(between.moments - d.lit(far)) < 0.01, qPrintable(QString::number(between.moments)));
        }
    }

    void one_depth_stops_what_lies_behind_it() {
        for (const double z : {-0.9, 0.0, 0.7}) {
            const Depths d{{z}, {1}};
            for (const double depth : {z - 0.2, z + 0.2}) {
                const Answers a = answers(d, depth);
                for (const double lit : {a.variance, a.exponential, a.moments})
                    QVERIFY2(std::abs(lit - (depth < z ? 1.0 : 0.0)) < 1e-3, qPrintable(QString::number(lit)));
            }
        }
    }

    void leaks_are_taken_from_the_dark_end() {
        QCOMPARE(without_leak(0.2, 0.2), 0.0);
        QCOMPARE(without_leak(0.1, 0.2), 0.0);
        QCOMPARE(without_leak(1.0, 0.2), 1.0);
        QCOMPARE(without_leak(0.6, 0.2), 0.5);
    }
};

MIROLUX_TEST(filterable_depth_test)
#include "filterable_depth_test.moc"

#include "core/air/end_of_sight.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QtTest>

using namespace mirolux;
using namespace mirolux::test;

class end_of_sight_test : public QObject {
    Q_OBJECT
private slots:
    void it_is_where_two_percent_are_left() {
        AirMedium m;
        m.shape = AirShape::even;
        m.extinction = 0.04;
        const double d = sight_along(m, {0, 2, 0}, {0, 0, -1}, 0.02);
        QVERIFY(std::abs(d - std::log(50.0) / 0.04) < 1e-6);
        m.shape = AirShape::byHeight;
        m.height = 3;
        m.base = 1;
        for (const glm::dvec3& way : {glm::dvec3(0, 0, -1), glm::dvec3(0, -0.3, -1), glm::dvec3(0, 0.005, -1)}) {
            const glm::dvec3 w = glm::normalize(way), from(0, 4, 0);
            const double metres = sight_along(m, from, w, 0.02);
            QVERIFY(std::isfinite(metres));
            QVERIFY(std::abs(transmittance(m, from, from + w * metres) - 0.02) < 1e-6);
        }
        QVERIFY(std::isinf(sight_along(m, {0, 4, 0}, glm::normalize(glm::dvec3(0, 1, -1)), 0.02))); // out of it
    }

    /// It ends shadows and lamps no sooner than anything of the scene is hidden, and proposes nothing twice.
    void it_proposes_what_can_be_saved() {
        Scene scene = random_scene(6, 12);
        SceneAsset big = *scene.asset;
        add_quad(big, 0, {-300, 0, 300}, {600, 0, 0}, {0, 0, -600});
        scene.asset = std::make_shared<const SceneAsset>(big);
        const View view = view_from({0, 3, 20}, {0, 1, 0}, 160, 90);
        Setup s;
        QVERIFY(s.set_text("air.kind", "uniform") && s.set_text("air.extinction", "0.05") &&
                s.set_text("shadow.maps", "on"));
        const SightProposal p = propose_sight(scene, s, view);
        QVERIFY2(std::abs(p.metres - std::log(50.0) / 0.05) < 1e-3, qPrintable(QString::number(p.metres)));
        QVERIFY(p.shadows && p.fades);
        QCOMPARE(p.shadows->number("cascade.distance"), std::ceil(p.metres));
        QCOMPARE(p.fades->number("light.fadeOuter"), std::ceil(p.metres));
        QVERIFY(!propose_sight(scene, *p.shadows, view).shadows && !propose_sight(scene, *p.fades, view).fades);
        QVERIFY(s.set_text("air.extinction", "0.0005")); // the scene ends before
        QVERIFY(std::isinf(propose_sight(scene, s, view).metres));
        QVERIFY(std::isinf(propose_sight(scene, Setup(), view).metres));
    }
};

MIROLUX_TEST(end_of_sight_test)
#include "end_of_sight_test.moc"

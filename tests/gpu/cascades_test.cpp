#include "core/flat/cascades.h"
#include "core/flat/plane_tracer.h"
#include "flat_session.h"

using namespace mirolux;
using namespace mirolux::test;

namespace {

FloatImage truth_of_stage(const FlatStage& s, int bounces, std::uint32_t samples) {
    truth::Picture p(s.view.width, s.view.height);
    const flat::PlaneTracer tracer(s.scene, s.setup, s.view, bounces, 1);
    truth::refine(tracer.samples(), p, {samples, 0}, [](double) { return true; });
    return flat::lit_picture(s.scene, s.setup, s.view, p.image());
}

std::uint64_t counted(const FrameRecord& r, const char* counter) {
    std::uint64_t sum = 0;
    for (const PassRecord& p : r.passes)
        sum += p.work.at(counter);
    return sum;
}

} // namespace

/// Light that travels by cascades, against the path tracer in the plane and against search.
class cascades_test : public QObject {
    Q_OBJECT
private slots:
    /// The mean error over the truth's mean, with two bounces off walls; "plain" leaks a little more light round
    /// corners.
    void scenes_are_near_their_truth_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<QString>("join");
        for (const char* name : {"open", "room", "slit", "pillars", "lamps", "mixed", "spared"})
            for (const char* join : {"aimed", "plain"})
                QTest::newRow(qPrintable(QString("%1 %2").arg(name, join))) << name << join;
    }
    void scenes_are_near_their_truth() {
        QFETCH(QString, name);
        QFETCH(QString, join);
        FlatStage s = plane_scene(name.toStdString());
        flat_choose(s, "flat.kind", "cascades");
        flat_choose(s, "cascades2d.scale", "1");
        flat_choose(s, "cascades2d.bounces", "2");
        flat_choose(s, "cascades2d.join", qPrintable(join));
        const FloatImage frame = flat_floats(s, "final"), truth = truth_of_stage(s, 2, 256);
        const truth::Distance d = truth::distance(frame, truth);
        qInfo("%s, %s: mean %.1f %%, bias %+.1f %%", qPrintable(name), qPrintable(join), 100 * d.mean, 100 * d.bias);
        QVERIFY2(d.mean < 0.08, qPrintable(QString::number(d.mean)));
    }

    void steps_do_not_grow_with_the_number_of_lights() {
        std::uint64_t rays = 0, first = 0;
        for (const int lights : {1, 4, 16, 64, 256, 1024}) {
            FlatStage s = flat_stage(5, lights, 9);
            flat_choose(s, "flat.kind", "cascades");
            flat_choose(s, "cascades2d.scale", "1");
            flat_choose(s, "cascades2d.bounces", "0");
            RenderOptions o;
            o.count = true;
            const FrameRecord r = flat_frame(s, o);
            if (rays == 0) rays = counted(r, "raysCast");
            QCOMPARE(counted(r, "raysCast"), rays);
            const std::uint64_t steps = counted(r, "fieldSteps");
            if (first == 0) first = steps;
            // Small lamps shorten steps near them and end rays at them: neither adds up with their number.
            QVERIFY2(steps < 2 * first,
                     qPrintable(QString("%1 lights: %2, one: %3").arg(lights).arg(steps).arg(first)));
        }
        QVERIFY(rays > 0);
    }

    void the_field_holds_exact_distances() {
        FlatStage s = flat_stage(9, 1, 9);
        flat_choose(s, "flat.shadow", "field");
        flat_choose(s, "occluders.scale", "1");
        flat_choose(s, "occluders.margin", "0");
        const FloatImage walls = flat_floats(s, "occluders"), field = flat_floats(s, "field");
        int wrong = 0, solid = 0;
        double worst = 0;
        for (int y = 0; y < 72; ++y)
            for (int x = 0; x < 128; ++x) {
                double nearest = 1e9;
                for (int v = 0; v < 72; ++v)
                    for (int u = 0; u < 128; ++u)
                        if (walls.pixel(u, v)[0] > 0) nearest = std::min(nearest, std::hypot(u - x, v - y));
                solid += nearest == 0;
                const double error = std::abs(field.pixel(x, y)[0] * 72 - nearest);
                worst = std::max(worst, error);
                wrong += error > 1e-3;
            }
        // A flood by jumps is wrong in few places, and there by little.
        QVERIFY2(solid > 100 && wrong < 40 && worst < 1,
                 qPrintable(QString("%1 %2 %3").arg(solid).arg(wrong).arg(worst)));
    }

    /// A wall fills the cells whose middles lie in it.
    void the_occluder_picture_is_what_is_inside() {
        FlatStage s = flat_stage(13, 1, 9);
        flat_choose(s, "flat.shadow", "march");
        flat_choose(s, "occluders.scale", "1");
        flat_choose(s, "occluders.margin", "0");
        const FloatImage walls = flat_floats(s, "occluders");
        const auto outlines = flat::outlines_of(*s.scene.flat);
        int wrong = 0, inside = 0;
        for (int y = 0; y < 72; ++y)
            for (int x = 0; x < 128; ++x) {
                const glm::dvec2 p(x + 0.5, 72 - y - 0.5);
                bool in = false;
                for (const flat::Occluder& o : outlines) {
                    bool odd = false;
                    for (std::size_t i = 0, n = o.points.size(); i < n; ++i) {
                        const glm::dvec2 &a = o.points[i], &b = o.points[(i + 1) % n];
                        if ((a.y > p.y) != (b.y > p.y) && p.x < a.x + (b.x - a.x) * (p.y - a.y) / (b.y - a.y))
                            odd = !odd;
                    }
                    in = in || odd;
                }
                inside += in;
                wrong += (walls.pixel(x, y)[0] > 0) != in;
            }
        QVERIFY2(inside > 200 && wrong <= 2, qPrintable(QString("%1 %2").arg(inside).arg(wrong)));
    }
};

MIROLUX_TEST(cascades_test)
#include "cascades_test.moc"

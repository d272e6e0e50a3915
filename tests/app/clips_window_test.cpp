#include "app/choice_row.h"
#include "app/clip_row.h"
#include "app/clip_strip.h"
#include "app/number_field.h"
#include "core/motion/scene_at.h"
#include "support/rigs.h"
#include "window_fixture.h"
#include <QCheckBox>
#include <QLabel>
#include <QPushButton>

using namespace mirolux;
using namespace mirolux::app;
using namespace mirolux::test;

/// The file's clips in the window: lanes over time, how each plays, and what follows in the picture.
class clips_window_test : public QObject, WindowFixture {
    Q_OBJECT
    ClipStrip* strip() { return window_->findChild<ClipStrip*>(); }
    const Project& project() { return window_->document().project(); }
    double seconds() { return project().view.seconds; }

private slots:
    void initTestCase() { QVERIFY(folder_.isValid()); }
    void init() {
        open_window();
        wait_for_rest();
        window_->set_station("Scene");
        QTRY_VERIFY(strip()->isVisible());
    }
    void cleanup() { close_window(); }

    void a_drag_over_the_lanes_sets_the_time_and_the_picture_follows() {
        const QImage before = window_->viewport().grab().toImage();
        ClipStrip* s = strip();
        const QPoint from(static_cast<int>(s->x_of(2)), 34), to(static_cast<int>(s->x_of(5)), 34);
        QTest::mousePress(s, Qt::LeftButton, {}, from);
        QVERIFY(window_->document().interactive());
        QMouseEvent move(QEvent::MouseMove, to, s->mapToGlobal(to), Qt::NoButton, Qt::LeftButton, {});
        QApplication::sendEvent(s, &move);
        QTest::mouseRelease(s, Qt::LeftButton, {}, to);
        QVERIFY(std::abs(seconds() - 5) < 0.2);
        QVERIFY(!window_->document().interactive());
        QVERIFY(!window_->document().can_undo()); // looking at another time is no edit
        wait_for_rest();
        QVERIFY(window_->viewport().grab().toImage() != before);
        // Objects are picked where they stand then.
        const Scene now = window_->document().scene();
        QVERIFY(now.placed && now.placed->pose && std::abs(now.placed->pose->seconds - seconds()) < 1e-9);
        s->setFocus();
        QTest::keyClick(s, Qt::Key_Right);
        QVERIFY(std::abs(seconds() - 5 - 1.0 / 30) < 0.2);
    }

    void a_clip_is_switched_and_shaped_in_steps_that_undo() {
        ClipStrip* s = strip();
        const auto plays = s->plays();
        QVERIFY(plays.size() >= 4);
        for (const ClipPlay& p : plays)
            QVERIFY(p.on);
        QVERIFY(project().clips.empty());
        QTest::mouseClick(s, Qt::LeftButton, {}, s->mark(1).center().toPoint());
        QVERIFY(!s->plays()[1].on && s->plays()[0].on);
        QCOMPARE(project().clips.size(), plays.size());
        const std::size_t moving = [&] {
            std::size_t n = 0;
            for (const Moves m : movers(window_->document().scene()))
                n += m == Moves::byClip;
            return n;
        }();
        window_->document().undo();
        QVERIFY(project().clips.empty() && s->plays()[1].on);
        std::size_t all = 0;
        for (const Moves m : movers(window_->document().scene()))
            all += m == Moves::byClip;
        QVERIFY(all > moving);
        // Of the chosen one: speed by its field, its end by a mark.
        s->setFocus();
        QTest::keyClick(s, Qt::Key_Down);
        const int chosen = s->clip();
        auto* speed = window_->findChild<NumberField*>("clip speed");
        emit speed->edited(-2);
        QCOMPARE(project().clips[static_cast<std::size_t>(chosen)].speed, -2.0);
        QTest::mouseClick(window_->findChild<QCheckBox*>("clip loop"), Qt::LeftButton);
        QVERIFY(!project().clips[static_cast<std::size_t>(chosen)].loop);
        window_->document().undo();
        QVERIFY(project().clips[static_cast<std::size_t>(chosen)].loop);
        window_->document().undo();
        QVERIFY(project().clips.empty());
        QTest::keyClick(s, Qt::Key_Space);
        QVERIFY(!s->plays()[static_cast<std::size_t>(chosen)].on);
    }

    void time_runs_and_stops() {
        auto* run = window_->findChild<QPushButton*>("run time");
        const double before = seconds();
        QTest::mouseClick(run, Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(seconds() > before + 0.5, 10000);
        QTest::mouseClick(run, Qt::LeftButton);
        const double after = seconds();
        QTest::qWait(200);
        QCOMPARE(seconds(), after);
        wait_for_rest(); // the whole picture of where it stopped
    }

    void a_lamp_that_is_carried_is_marked_where_it_stands() {
        const Light& lamp = light_named("lantern light");
        const auto place = [&] {
            for (const Light& l : window_->document().lights_now())
                if (l.id == lamp.id) return l.position;
            return glm::vec3(0.0f);
        };
        const glm::vec3 first = place();
        window_->document().set_seconds(4);
        QVERIFY(glm::length(place() - first) > 2.0f);
        QVERIFY(project().lights == window_->document().asset()->lights); // no edit of the light
        // Its handles stand there too, and it is pulled from there.
        window_->set_station("Lights");
        window_->select_light(lamp.id);
        window_->document().set_seconds(4);
        wait_for_rest();
        const glm::vec3 stood = place();
        const auto* facts = window_->findChild<QLabel*>("what moves it");
        QVERIFY2(facts->isVisible() && facts->text().contains("carries it"), qPrintable(facts->text()));
        QPoint handle;
        for (const Handle& h : window_->viewport().handles())
            if (h.kind == HandleKind::axisY) handle = at(h.position);
        QVERIFY(QLineF(handle, at(stood)).length() < 200);
        drag(handle, handle - QPoint(0, 30));
        QVERIFY(place().y > stood.y + 0.1f);
        QVERIFY(std::abs(place().x - stood.x) < 0.02f && std::abs(place().z - stood.z) < 0.02f);
        window_->document().undo();
        QVERIFY(glm::length(place() - stood) < 1e-4f);
    }

    void a_scene_without_clips_shows_none() {
        const auto path = folder_.filePath("still.gltf").toStdString();
        MovingScene still(3);
        still.json.erase("animations");
        QVERIFY(write_file_atomically(path, still.text()).has_value());
        QVERIFY(window_->open(QString::fromStdString(path), false));
        QTRY_VERIFY(!window_->findChild<ClipRow*>()->isVisible());
    }

    /// A file of two scenes and two variants: chosen in the bench, shown, undone.
    void scenes_and_variants_are_chosen_in_the_bench() {
        using J = nlohmann::json;
        MovingScene file(3);
        file.json["scenes"] = J::array({{{"name", "all"}, {"nodes", file.json["scenes"][0]["nodes"]}},
                                        {{"name", "plate alone"}, {"nodes", {file.plateNode}}}});
        file.json["materials"] = J::array({{{"name", "new"}}, {{"name", "old"}}});
        file.json["extensionsUsed"].push_back("KHR_materials_variants");
        file.json["extensions"]["KHR_materials_variants"]["variants"] = J::array({{{"name", "worn"}}});
        auto& plate = file.json["meshes"][1]["primitives"][0];
        plate["material"] = 0;
        plate["extensions"]["KHR_materials_variants"]["mappings"] = J::array({{{"material", 1}, {"variants", {0}}}});
        const auto path = folder_.filePath("offers.gltf").toStdString();
        QVERIFY(write_file_atomically(path, file.text()).has_value());
        QVERIFY(window_->open(QString::fromStdString(path), false));
        const Document& d = window_->document();
        auto* scenes = window_->findChild<ChoiceRow*>("file scenes");
        auto* variants = window_->findChild<ChoiceRow*>("file variants");
        QTRY_VERIFY(scenes->isVisible() && variants->isVisible());
        QCOMPARE(scenes->current(), 0);
        QCOMPARE(d.asset()->objects.size(), std::size_t(2));
        QTest::mouseClick(scenes, Qt::LeftButton, {}, scenes->cell(1).center());
        QCOMPARE(d.asset()->objects.size(), std::size_t(1));
        QCOMPARE(scenes->current(), 1);
        QCOMPARE(d.asset()->material_of(d.asset()->objects.back()).name, std::string("new"));
        QTest::mouseClick(variants, Qt::LeftButton, {}, variants->cell(1).center());
        QCOMPARE(d.asset()->material_of(d.asset()->objects.back()).name, std::string("old"));
        QTRY_VERIFY_WITH_TIMEOUT(window_->viewport().has_picture(), 30000); // the worker reads the same choice
        while (window_->document().can_undo())
            window_->document().undo();
        QCOMPARE(d.asset()->material_of(d.asset()->objects.back()).name, std::string("new"));
        QCOMPARE(d.asset()->objects.size(), std::size_t(2));
        QVERIFY(d.project().lights == d.asset()->lights); // those of the scene that is back, each once
    }

    void both_themes_paint_the_lanes() {
        ClipStrip* s = strip();
        window_->document().set_seconds(7.5);
        QImage shots[2];
        for (const bool dark : {true, false}) {
            use_theme(*qApp, dark);
            shots[dark] = s->grab().toImage();
        }
        QVERIFY(shots[0] != shots[1]);
        use_theme(*qApp, true);
        // The present time's line stands at its place, full height.
        const QImage image = s->grab().toImage();
        const double ratio = image.devicePixelRatio();
        const int x = static_cast<int>(s->x_of(7.5) * ratio);
        int bright = 0;
        for (int y = static_cast<int>(24 * ratio); y < image.height() - 6; ++y)
            for (int dx = -1; dx <= 1; ++dx)
                if (qGray(image.pixel(x + dx, y)) > 200) {
                    ++bright;
                    break;
                }
        QVERIFY(bright > image.height() / 2);
    }
};

MIROLUX_TEST(clips_window_test)
#include "clips_window_test.moc"

#include "app/choice_row.h"
#include "app/figures/air_figure.h"
#include "app/figures/figure_pages.h"
#include "app/figures/light_figure.h"
#include "app/figures/path_figure.h"
#include "app/figures/plan_figure.h"
#include "app/figures/sky_figure.h"
#include "app/figures/space_figure.h"
#include "app/figures/tone_figure.h"
#include "app/number_field.h"
#include "core/air/end_of_sight.h"
#include "core/ambient/ambient_light.h"
#include "core/base/text.h"
#include "core/light/head_lamp.h"
#include "core/light/luminance.h"
#include "core/light/tone.h"
#include "window_fixture.h"
#include <QLabel>
#include <QListWidget>
#include <QPushButton>

using namespace mirolux;
using namespace mirolux::app;
using namespace mirolux::test;

/// The figures of the stations: they show the document's state and answer to mouse and keys.
class figures_test : public QObject, WindowFixture {
    Q_OBJECT
    static void move(QWidget* w, const QPointF& at, Qt::MouseButtons buttons = {}) {
        QMouseEvent e(QEvent::MouseMove, at, w->mapToGlobal(at.toPoint()), Qt::NoButton, buttons, {});
        QApplication::sendEvent(w, &e);
    }

private slots:
    void init() {
        open_window();
        wait_for_rest();
    }
    void cleanup() { close_window(); }

    void a_path_is_chosen_in_its_figure_and_remembers_what_it_cost() {
        auto* f = figure<PathFigure>("Path");
        QVERIFY(f && f->isVisible());
        QTRY_VERIFY(f->words(4).contains("drops no light"));
        QVERIFY2(f->words(0).contains("drops") && f->words(0).contains("lights over"), qPrintable(f->words(0)));
        QTRY_VERIFY_WITH_TIMEOUT(f->measured_ms(0) > 0, 20000);
        QCOMPARE(f->measured_ms(4), 0.0);
        QTest::mouseClick(f, Qt::LeftButton, {}, f->row(4).center().toPoint());
        QCOMPARE(window_->document().project().setup.choice("path.kind"), std::string("tiled-deferred"));
        QTRY_VERIFY_WITH_TIMEOUT(f->measured_ms(4) > 0, 30000);
        QVERIFY(f->measured_ms(0) > 0); // still of this state
        QTest::keyClick(f, Qt::Key_Down);
        QCOMPARE(window_->document().project().setup.choice("path.kind"), std::string("tiled-forward"));
        QVERIFY(window_->document().set("culling.tile", std::string("32")).has_value());
        QCOMPARE(f->measured_ms(4), 0.0); // what was measured was of another state
    }

    void a_pass_of_the_chain_opens_its_bench() {
        auto* f = figure<PathFigure>("Path");
        QTRY_VERIFY(!f->words(0).isEmpty());
        QTest::mouseClick(f, Qt::LeftButton, {}, f->pass_row(0).center().toPoint());
        QVERIFY(window_->findChild<PassBench*>()->isVisible());
    }

    /// The working space: half of the light is shown much too dark in codes; one click puts right and wrong beside each
    /// other, and takes one step back.
    void the_working_space_is_shown_right_and_wrong() {
        auto* pages = figure<FinishPages>("Finish");
        auto* choice = pages->findChild<ChoiceRow*>("figure page");
        auto* f = window_->findChild<SpaceFigure*>();
        QVERIFY(!f->isVisible());
        QTest::mouseClick(choice, Qt::LeftButton, {}, choice->cell(FinishPages::space).center());
        QVERIFY(f->isVisible() && !window_->findChild<ToneFigure*>()->isVisible());
        QVERIFY(f->sent(0.25, false) < 0.8 * f->sent(0.25, true));
        Document& d = window_->document();
        const Setup before = d.project().setup;
        QTest::mouseClick(f->findChild<QPushButton*>("space pair"), Qt::LeftButton);
        QCOMPARE(d.project().setup.choice("output.space"), std::string("linear"));
        QVERIFY(d.project().b && d.project().b->choice("output.space") == "gamma");
        d.undo();
        QVERIFY(!d.project().b && d.project().setup == before);
        pages->show_page(FinishPages::curve);
    }

    void the_tone_figure_counts_every_pixel_and_is_dragged_to_expose() {
        auto* f = figure<ToneFigure>("Finish");
        QVERIFY(f && f->isVisible());
        QTRY_VERIFY_WITH_TIMEOUT(f->histogram().has_value(), 20000);
        std::uint32_t all = f->histogram()->below + f->histogram()->above;
        for (const std::uint32_t n : f->histogram()->bins)
            all += n;
        QCOMPARE(all, f->histogram()->pixels);
        QCOMPARE(all, 320u * 180u);
        Document& d = window_->document();
        const QPointF from = f->plot().center(), stop(f->plot().width() / 20, 0); // 20 stops wide
        QTest::mousePress(f, Qt::LeftButton, {}, from.toPoint());
        move(f, from + 2 * stop, Qt::LeftButton);
        QTest::mouseRelease(f, Qt::LeftButton, {}, (from + 2 * stop).toPoint());
        QVERIFY2(std::abs(d.project().setup.number("exposure.ev100") + 2) < 0.05,
                 qPrintable(QString::number(d.project().setup.number("exposure.ev100"))));
        d.undo();
        QCOMPARE(d.project().setup.number("exposure.ev100"), 0.0); // one drag, one step
        QTest::keyClick(f, Qt::Key_Left);
        QCOMPARE(d.project().setup.number("exposure.ev100"), 0.5);
    }

    void the_sun_is_dragged_across_its_sky() {
        auto* f = figure<SkyFigure>("Air");
        QVERIFY(f && f->isVisible());
        Document& d = window_->document();
        QTest::mouseDClick(f, Qt::LeftButton, {}, f->point_of({30, 90}).toPoint());
        QCOMPARE(d.project().setup.number("sun.azimuth"), 180.0); // two colours have no sun
        QVERIFY(d.set("sky.kind", std::string("atmosphere")).has_value());
        QTRY_VERIFY_WITH_TIMEOUT(!f->painting(), 20000);
        const QPointF from = f->point_of({30, 180}), to = f->point_of({12, 100});
        QVERIFY(f->place_at(to) && std::abs(f->place_at(to)->elevation - 12) < 0.01);
        QTest::mousePress(f, Qt::LeftButton, {}, from.toPoint());
        for (int i = 1; i <= 4; ++i)
            move(f, from + (to - from) * i / 4, Qt::LeftButton);
        QTest::mouseRelease(f, Qt::LeftButton, {}, to.toPoint());
        QVERIFY2(std::abs(d.project().setup.number("sun.elevation") - 12) < 0.1 &&
                     std::abs(d.project().setup.number("sun.azimuth") - 100) < 0.1,
                 qPrintable(QString::number(d.project().setup.number("sun.azimuth"))));
        QTRY_VERIFY_WITH_TIMEOUT(!f->painting() && !f->words_at(to).isEmpty(), 20000);
        const Project& p = d.project();
        const SkyModel model(sky_settings(d.scene(), p.setup, p.view));
        const double beside = luminance(model.radiance(direction_of({50, 300})));
        QVERIFY2(f->words_at(f->point_of({50, 300})).contains(QString::fromStdString(number_text(beside, 3))),
                 qPrintable(f->words_at(f->point_of({50, 300}))));
        d.undo();
        QCOMPARE(d.project().setup.number("sun.elevation"), 30.0); // one drag, one step
        QTest::keyClick(f, Qt::Key_Up);
        QCOMPARE(d.project().setup.number("sun.elevation"), 31.0);
        QTest::mouseDClick(f, Qt::LeftButton, {}, f->point_of({-10, 270}).toPoint());
        QVERIFY(std::abs(d.project().setup.number("sun.elevation") + 10) < 0.7);
        QVERIFY(d.set("sun.by", std::string("date")).has_value()); // then the clock says where
        QTest::mouseDClick(f, Qt::LeftButton, {}, f->point_of({60, 90}).toPoint());
        QVERIFY(std::abs(d.project().setup.number("sun.elevation") + 10) < 0.7);
    }

    /// A bench of many settings is headed by what they are about; nothing heads rows that are not shown.
    void long_benches_have_headings() {
        const auto headings = [this] {
            QStringList out;
            for (const QLabel* l : window_->findChildren<QLabel*>("heading"))
                if (l->isVisible()) out << l->text();
            return out;
        };
        window_->set_station("Air");
        QVERIFY2(headings().contains("Fog and lit air") && headings().contains("Beams of mesh") &&
                     headings().contains("Sky") && !headings().contains("Moon"),
                 qPrintable(headings().join(", ")));
        QVERIFY(window_->document().set("sky.kind", std::string("atmosphere")).has_value());
        QVERIFY2(headings().contains("Moon"), qPrintable(headings().join(", ")));
        window_->set_station("Finish");
        QVERIFY2(headings().contains("Bloom") && headings().contains("Tone") && !headings().contains("Moon"),
                 qPrintable(headings().join(", ")));
    }

    /// Clouds are added before the camera, changed by their numbers, switched, deleted; each is a step to be undone.
    void clouds_of_air_are_edited() {
        window_->set_station("Air");
        Document& d = window_->document();
        auto* ball = window_->findChild<QPushButton*>("add cloud ball");
        QVERIFY(ball && !ball->isVisible()); // nothing would show them
        QVERIFY(d.set("air.kind", std::string("froxels")).has_value());
        QVERIFY(ball->isVisible());
        QTest::mouseClick(ball, Qt::LeftButton);
        QCOMPARE(d.project().volumes.size(), std::size_t(1));
        const AirVolume first = d.project().volumes[0];
        QVERIFY(first.shape == VolumeShape::sphere &&
                std::abs(glm::length(first.center - d.project().view.camera.eye) - 6) < 1e-3f);
        QTest::mouseClick(window_->findChild<QPushButton*>("add cloud box"), Qt::LeftButton);
        QVERIFY(d.project().volumes.size() == 2 && d.project().volumes[1].id != first.id);
        window_->findChild<NumberField*>("cloud extinction")->put(1.5);
        QCOMPARE(d.project().volumes[1].extinction, 1.5f);
        QVERIFY(d.project().volumes[0] == first);
        QCOMPARE(d.scene().volumes.size(), std::size_t(2));
        // The chosen one has handles in the picture: its place, and its size with all sides alike.
        Viewport& v = window_->viewport();
        window_->findChild<NumberField*>("cloud width")->put(2);
        const AirVolume box = d.project().volumes[1];
        const std::vector<Handle> handles = v.handles();
        QVERIFY(handles.size() >= 5);
        for (const Handle& h : handles)
            if (h.kind == HandleKind::range) drag(at(h.position), at(h.position) + QPoint(25, 0));
        const AirVolume grown = d.project().volumes[1];
        QVERIFY(grown.size.y > box.size.y && grown.center == box.center);
        QVERIFY(std::abs(grown.size.x / grown.size.y - 0.5f) < 1e-3f);
        d.undo();
        QVERIFY(d.project().volumes[1] == box);
        d.undo();
        window_->set_station("Path");
        QVERIFY(v.handles().empty()); // they go with the row
        window_->set_station("Air");
        window_->findChild<QListWidget*>("clouds")->item(0)->setCheckState(Qt::Unchecked);
        QVERIFY(!d.project().volumes[0].enabled);
        QTest::mouseClick(window_->findChild<QPushButton*>("delete cloud"), Qt::LeftButton);
        QCOMPARE(d.project().volumes.size(), std::size_t(1));
        for (int i = 0; i < 5; ++i)
            d.undo();
        QVERIFY(d.project().volumes.empty());
    }

    /// The head lamp goes with the camera, brightens the picture, and is neither saved nor kept for a measurement.
    void the_head_lamp_is_of_the_eye_alone() {
        Document& d = window_->document();
        const std::size_t lights = d.project().lights.size();
        window_->command("head lamp")->trigger();
        QVERIFY(d.head_lamp() && !d.dirty());
        QCOMPARE(d.project().lights.size(), lights);
        QCOMPARE(d.scene().lights.size(), lights + 1);
        QCOMPARE(d.scene().lights.back().id, head_lamp_id);
        Camera camera = d.project().view.camera;
        camera.eye += glm::vec3(1, 0, 0);
        d.move_camera(camera);
        QCOMPARE(d.scene().lights.back().position, camera.eye);
        // Half of white on a white surface four metres ahead.
        const Light lamp = d.scene().lights.back();
        const double radiance = lamp.intensity / 16.0 / 3.14159265358979,
                     white = 1 / tone::exposure_scale(d.project().setup.number("exposure.ev100"));
        QVERIFY(std::abs(radiance - 0.5 * white) < 1e-4 * white);
        window_->command("log")->trigger();
        QVERIFY(!d.head_lamp()); // what is measured is the scene's own light
        window_->command("stop")->trigger();
    }

    /// Where sight ends in the fog: told, taken with one click, undone; beams beside lit air with another.
    void the_air_says_where_sight_ends() {
        auto* f = figure<AirFigure>("Air");
        Document& d = window_->document();
        QVERIFY(f && !f->isVisible()); // no fog, no figure
        QVERIFY(d.set("air.kind", std::string("froxels")) && d.set("air.extinction", 0.06) && d.set("air.far", 40.0) &&
                d.set("cascade.distance", 120.0) && d.set("shadow.maps", true));
        QTest::qWait(50);
        QVERIFY(f->isVisible() && f->words().contains("%"));
        auto* facts = window_->findChild<QLabel*>("sight facts");
        auto* shadows = window_->findChild<QPushButton*>("end shadows");
        auto* lamps = window_->findChild<QPushButton*>("end lamps");
        const SightProposal wanted = propose_sight(d.scene(), d.project().setup, d.project().view);
        QVERIFY(std::isfinite(wanted.metres) && facts->text().contains(QString::number(std::ceil(wanted.metres))));
        QVERIFY(shadows->isVisible() && lamps->isVisible());
        const Setup before = d.project().setup;
        QTest::mouseClick(shadows, Qt::LeftButton);
        QCOMPARE(d.project().setup.number("cascade.distance"), std::ceil(wanted.metres));
        QVERIFY(!shadows->isVisible());
        d.undo();
        QVERIFY(d.project().setup == before);
        QTest::mouseClick(lamps, Qt::LeftButton);
        QCOMPARE(d.project().setup.number("light.fadeOuter"), std::ceil(wanted.metres));
        d.undo();
        auto* against = window_->findChild<QPushButton*>("against lit air");
        QTest::mouseClick(against, Qt::LeftButton);
        QVERIFY(d.project().b && d.project().b->choice("beams.kind") == "mesh" &&
                d.project().b->choice("air.kind") == "uniform");
        d.undo();
        // The ray that the pointer rests on in the picture is what the figure is about.
        const QString middle = f->words();
        window_->viewport().setFocus();
        const QRectF r = window_->viewport().picture_rect();
        move(&window_->viewport(), r.topLeft() + QPointF(4, 4), Qt::NoButton);
        QTRY_VERIFY(f->words() != middle);
    }

    void a_kept_setup_is_taken_with_one_click() {
        window_->set_station("Scene");
        Document& d = window_->document();
        auto* kept = window_->findChild<ChoiceRow*>("kept setups");
        QVERIFY(kept && kept->isVisible() && kept->words().contains("dusk"));
        const Setup before = d.project().setup;
        QCOMPARE(kept->current(), -1); // none of them is the present one
        const int dusk = static_cast<int>(kept->words().indexOf("dusk"));
        QTest::mouseClick(kept, Qt::LeftButton, {}, kept->cell(dusk).center());
        QCOMPARE(d.project().setup.choice("sky.kind"), std::string("atmosphere"));
        QCOMPARE(kept->current(), dusk);
        d.undo();
        QVERIFY(d.project().setup == before && kept->current() != dusk);
    }

    void one_stands_where_one_presses_in_the_plan() {
        auto* f = figure<PlanFigure>("Scene");
        QVERIFY(f && f->isVisible());
        Document& d = window_->document();
        const glm::vec3 before = d.project().view.camera.eye;
        const QPointF at(f->width() * 0.5, f->height() * 0.4);
        const glm::dvec2 wanted = f->world_at(at.toPoint());
        QTest::mousePress(f, Qt::LeftButton, {}, at.toPoint());
        move(f, at + QPointF(40, 0), Qt::LeftButton);
        QTest::mouseRelease(f, Qt::LeftButton, {}, at.toPoint());
        const Camera& c = d.project().view.camera;
        QVERIFY(std::abs(c.eye.x - wanted.x) < 1e-3 && std::abs(c.eye.z - wanted.y) < 1e-3);
        QCOMPARE(c.eye.y, before.y);
        QVERIFY(glm::normalize(c.aim - c.eye).x > 0.7f); // dragged to the right: to +x
        QVERIFY(!d.dirty());
        const Camera& pier = d.project().cameras[1];
        QTest::mouseClick(f, Qt::LeftButton, {}, f->place_of(pier.eye).toPoint());
        QCOMPARE(d.project().view.camera.eye, pier.eye);
        QTest::keyClick(f, Qt::Key_Right);
        QVERIFY(std::abs(d.project().view.camera.eye.x - pier.eye.x - 1) < 1e-4);
    }

    void a_lights_figure_is_pulled_by_its_knobs() {
        Document& d = window_->document();
        const auto& lights = d.project().lights;
        const auto spot = std::find_if(lights.begin(), lights.end(), [](const Light& l) {
            return l.type == LightType::spot && l.range > 0 && l.outerConeAngle < 1.2f && l.enabled;
        });
        QVERIFY(spot != lights.end());
        const Light before = *spot;
        window_->select_light(before.id);
        QTest::qWait(80);
        auto* f = window_->findChild<LightFigure*>();
        QVERIFY(f && f->isVisible());
        using Knob = LightFigure::Knob;
        const auto pull = [&](Knob k, const QPointF& by) {
            const QPointF from = *f->knob(k);
            QTest::mousePress(f, Qt::LeftButton, {}, from.toPoint());
            move(f, from + by, Qt::LeftButton);
            QTest::mouseRelease(f, Qt::LeftButton, {}, (from + by).toPoint());
        };
        pull(Knob::range, {-30, 0});
        QVERIFY(d.light(before.id)->range < before.range);
        d.undo();
        QCOMPARE(d.light(before.id)->range, before.range); // one pull, one step
        pull(Knob::intensity, {0, -20});
        QVERIFY(d.light(before.id)->intensity > before.intensity);
        pull(Knob::outer, {14, 0});
        QVERIFY(d.light(before.id)->outerConeAngle > before.outerConeAngle);
        pull(Knob::inner, {200, 0}); // no farther than the outer edge
        QVERIFY(d.light(before.id)->innerConeAngle <= d.light(before.id)->outerConeAngle);
        const float range = d.light(before.id)->range;
        QTest::keyClick(f, Qt::Key_Right);
        QVERIFY(std::abs(d.light(before.id)->range / range - 1.05f) < 1e-4f);
        // What is told under the pointer is the fall-off itself: at the range, nothing.
        const QPointF end = *f->knob(Knob::range);
        QVERIFY2(f->words_at(end + QPointF(3, -8)).endsWith(": 0 lx"), qPrintable(f->words_at(end + QPointF(3, -8))));
        QVERIFY(f->words_at({-5, -5}).isEmpty());
        f->grab();
    }

    /// The sum along the line through two lamps, against the formula by hand.
    void several_lights_add_up_on_the_ground() {
        Document& d = window_->document();
        window_->set_station("Lights");
        auto* f = window_->findChild<LightsFigure*>();
        auto* list = window_->findChild<QListWidget*>("lights");
        QTest::qWait(80);
        QVERIFY(f->isVisible());
        QVERIFY(!f->words_at(f->plot().center()).isEmpty()); // of all lights, ahead
        std::vector<int> ids;
        for (int i = 0; i < list->count() && ids.size() < 2; ++i)
            if (const Light* l = d.light(list->item(i)->data(Qt::UserRole).toInt());
                l->type == LightType::point && l->enabled) {
                list->item(i)->setSelected(true);
                ids.push_back(l->id);
            }
        QCOMPARE(ids.size(), std::size_t(2));
        const Light a = *d.light(ids[0]), b = *d.light(ids[1]);
        const QString told = f->words_at({f->plot().center().x(), f->plot().center().y()});
        const double lux = told.section(": ", 1).section(' ', 0, 0).toDouble();
        // In the middle between them both stand equally far, each as high over the ground as the words imply.
        QVERIFY2(lux > 0, qPrintable(told));
        d.edit_light("switch", ids[1], [](Light& l) { l.enabled = false; });
        const double alone = f->words_at({f->plot().center().x(), f->plot().center().y()})
                                 .section(": ", 1)
                                 .section(' ', 0, 0)
                                 .toDouble();
        d.edit_light("switch", ids[1], [](Light& l) { l.enabled = true; });
        d.edit_light("switch", ids[0], [](Light& l) { l.enabled = false; });
        const double other = f->words_at({f->plot().center().x(), f->plot().center().y()})
                                 .section(": ", 1)
                                 .section(' ', 0, 0)
                                 .toDouble();
        QVERIFY2(std::abs(alone + other - lux) < 0.02 * lux,
                 qPrintable(QString("%1 %2 %3").arg(lux).arg(alone).arg(other)));
        QTest::keyClick(f, Qt::Key_Right);
        f->grab();
        QVERIFY(a.id != b.id);
    }

    void a_changed_setting_wears_a_dot_that_takes_it_back() {
        window_->set_station("Path");
        Document& d = window_->document();
        QVERIFY(d.set("path.maxLights", 20).has_value());
        auto* k = window_->findChild<NumberField*>("path.maxLights");
        QVERIFY(k->changed() && !k->dot().isEmpty());
        QTest::mouseClick(k, Qt::LeftButton, {}, k->dot().center().toPoint());
        QCOMPARE(d.project().setup.whole("path.maxLights"), 8);
        QVERIFY(!k->changed());
    }

    void a_project_without_a_chosen_target_takes_the_one_for_its_device() {
        QVERIFY(window_->open(MIROLUX_DEMO, false));
        Document& d = window_->document();
        if (window_->bridge().device()->software()) QCOMPARE(d.target().name, std::string("Software"));
        QVERIFY(!d.dirty() && !d.can_undo());
        d.edit("target", [](Project& p) { p.target = 1; });
        QVERIFY(!d.project().targetByDevice);
        d.suit_device(true);
        QCOMPARE(d.project().target, 1); // a choice stays
    }

    /// The line, the drawn length and the label of both tapes are of one comparison.
    void after_a_comparison_both_tapes_show_its_medians() {
        Document& d = window_->document();
        d.edit("b", [](Project& p) {
            p.b = p.setup;
            (void)p.setup.set("path.maxLights", 1);
        });
        QSignalSpy measured(&window_->bridge(), &RenderBridge::compared);
        wait_for_rest();
        QVERIFY(window_->bridge().history_b().frames() >= 4); // sampled as often as A
        QVERIFY(window_->bridge().history().frames() >= 4);
        window_->command("compare")->trigger();
        QVERIFY(measured.wait(120000));
        const auto m = measured.front().front().value<PairedMeasurement>();
        const PassTape& tape = window_->deck().tape();
        for (const PassFigure& p : m.a.passes)
            QVERIFY(std::abs(tape.segment(p.name).width() / tape.segment(m.a.passes[0].name).width() -
                             p.ms.median / m.a.passes[0].ms.median) < 0.02);
        d.edit("k", [](Project& p) { (void)p.setup.set("path.maxLights", 2); });
        QTRY_VERIFY_WITH_TIMEOUT(window_->bridge().history().frames() >= 4, 30000);
    }
};

MIROLUX_TEST(figures_test)
#include "figures_test.moc"

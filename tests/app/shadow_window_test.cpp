#include "app/figures/shadow_figure.h"
#include "app/layer_strip.h"
#include "app/number_field.h"
#include "app/objects_bench.h"
#include "app/shadow_audit_row.h"
#include "window_fixture.h"
#include <QComboBox>

using namespace mirolux;
using namespace mirolux::app;
using namespace mirolux::test;

/// The Shadows station: its figure, and a light's own shadow.
class shadow_window_test : public QObject, WindowFixture {
    Q_OBJECT

    const Setup& setup() { return window_->document().project().setup; }
    ShadowFigure* shown_figure() {
        (void)window_->document().set("shadow.maps", true);
        window_->command("station Shadows")->trigger();
        auto* figure = window_->findChild<ShadowFigure*>();
        (void)figure->grab(); // its maps are those of what it last drew
        return figure;
    }

private slots:
    void initTestCase() { use_theme(*qApp, true); }
    void init() {
        open_window();
        QApplication::setActiveWindow(window_.get());
    }
    void cleanup() { close_window(); }

    /// Off it says what to do; on it shows slices and every map, named under the pointer; a click selects the light.
    void the_figure_shows_the_maps_and_selects_their_lights() {
        auto* figure = window_->findChild<ShadowFigure*>();
        QVERIFY(figure);
        const QImage off = figure->grab().toImage();
        QVERIFY(figure == shown_figure() && figure->grab().toImage() != off);
        const ShadowSet& set = figure->maps();
        QVERIFY(set.maps.size() > 6 && !set.refused.empty());
        int lamp = -1;
        for (std::size_t i = 0; i < set.maps.size() && lamp < 0; ++i)
            if (set.maps[i].perspective) lamp = int(i);
        QVERIFY(lamp >= 0);
        const ShadowMap& m = set.maps[std::size_t(lamp)];
        const QRectF r = figure->atlas();
        const QPointF at(r.left() + (m.x + m.size * 0.5) * r.width() / set.width,
                         r.bottom() - (m.y + m.size * 0.5) * r.height() / set.height);
        QCOMPARE(figure->map_at(at), lamp);
        const QString words = figure->words_at(at);
        QVERIFY2(words.contains("triangles") && words.contains(QString::number(m.size)), qPrintable(words));
        QTest::mouseClick(figure, Qt::LeftButton, {}, at.toPoint());
        QVERIFY(!window_->selection().lights().empty());
        const Light* l = window_->document().light(window_->selection().lights().front());
        QVERIFY(l && words.startsWith(QString::fromStdString(l->name)));
    }

    /// Ends of slices move by hand and by keys, as one step of the history, between their neighbours.
    void slices_end_where_they_are_dragged() {
        ShadowFigure* figure = shown_figure();
        const double before = figure->maps().maps[0].cascade.to, second = figure->maps().maps[1].cascade.to;
        QVERIFY(figure->words_at({figure->x_of(before * 0.5), figure->ruler().center().y()}).contains("slice 1"));
        const QPoint from(int(std::lround(figure->x_of(before))), int(figure->ruler().center().y()));
        QTest::mousePress(figure, Qt::LeftButton, {}, from);
        for (int i = 1; i <= 5; ++i)
            QTest::mouseMove(figure, from + QPoint(3 * i, 0));
        QTest::mouseRelease(figure, Qt::LeftButton, {}, from + QPoint(15, 0));
        (void)figure->grab();
        QCOMPARE(setup().choice("cascade.split"), std::string("by-hand"));
        const double moved = setup().number("cascade.end1");
        QVERIFY2(moved > before * 1.02 && moved < second, qPrintable(QString("%1 from %2").arg(moved).arg(before)));
        QVERIFY(std::abs(setup().number("cascade.end2") - second) < 1e-6);
        QVERIFY(std::abs(figure->maps().maps[0].cascade.to - moved) < 1e-6);
        figure->setFocus();
        QTest::keyClick(figure, Qt::Key_Up);
        QTest::keyClick(figure, Qt::Key_Right);
        QVERIFY(setup().number("cascade.end2") > second * 1.03);
        window_->document().undo();
        window_->document().undo();
        QCOMPARE(setup().choice("cascade.split"), std::string("by-spread")); // the drag was one step
    }

    /// A light's own shadow: chosen in its bench, undone, and gone from the rows when there are no maps.
    void a_lights_own_shadow_is_edited_in_its_bench() {
        const int id = light_named("street lamp 01").id;
        window_->select_light(id);
        auto* mode = window_->findChild<QComboBox*>("light shadow");
        QVERIFY(mode && !mode->isVisible());
        QVERIFY(window_->document().set("shadow.maps", true).has_value());
        QTRY_VERIFY(mode->isVisible());
        auto* bias = window_->findChild<NumberField*>("shadow bias");
        QVERIFY(bias && bias->isVisible());
        QCOMPARE(bias->text(), QString("as all"));
        bias->put(0.125);
        QVERIFY(std::abs(*window_->document().light(id)->shadow.bias - 0.125f) < 1e-6f);
        mode->setCurrentIndex(1);
        emit mode->activated(1);
        QVERIFY(window_->document().light(id)->shadow.mode == ShadowMode::none);
        QTRY_VERIFY(!bias->isVisible()); // no shadow, no bias
        window_->document().undo();
        window_->document().undo();
        QVERIFY(window_->document().light(id)->shadow == LightShadow());
    }

    /// With shadows on, the picture changes, the layers join the strip, and a drag of a light is answered.
    /// Objects get boxes in their place; boxes are taken hold of, drawn, copied, deleted, held against none; undo
    /// brings the file's bytes back.
    void boxes_stand_in_and_are_drawn_in_the_picture() {
        Document& d = window_->document();
        const auto proxies = [&] {
            return std::count_if(d.project().objects.begin(), d.project().objects.end(),
                                 [](const ObjectEdit& e) { return e.proxy; });
        };
        const auto bytes = [&] { return project_text(d.project(), *d.asset(), d.project().path); };
        const std::string before = bytes();
        (void)d.set("shadow.maps", true);
        const long given = proxies();
        Selection& selection = window_->selection();
        std::vector<int> cars;
        for (int o = 0; o < d.object_count(); ++o)
            if (name_matches(d.object_name(o).name, "car*")) cars.push_back(o);
        QVERIFY(cars.size() > 1);
        selection.set_objects(cars);
        window_->command("stand in")->trigger();
        QVERIFY(proxies() > given);
        QVERIFY(d.object_edit(cars.front()).casts == Casting::proxied);
        QCOMPARE(selection.objects().size(), std::size_t(proxies() - given));
        QVERIFY(d.is_proxy(selection.objects().front()));
        QVERIFY(window_->findChild<ObjectsBench*>()->isVisible());
        // One of them alone, pulled along an axis.
        selection.set_objects({selection.objects().front()});
        const int taken = selection.objects().front();
        const std::string id = d.object_name(taken).id;
        const Camera from = d.project().view.camera;
        d.move_camera(framing(d.scene().objects()[std::size_t(taken)].bounds));
        const glm::vec3 stood = d.object_edit(taken).translation;
        const auto handles = window_->viewport().place_handles();
        const auto arm = std::find_if(handles.begin(), handles.end(),
                                      [](const PlacedHandle& h) { return h.kind == PlaceHandle::axisY; });
        QVERIFY(arm != handles.end());
        drag(at(arm->position), at(arm->position) - QPoint(0, 30));
        QVERIFY(d.object_edit(selection.objects().front()).translation.y > stood.y + 0.01f);
        QCOMPARE(d.object_name(selection.objects().front()).id, id);
        window_->command("duplicate")->trigger();
        QVERIFY(d.object_name(selection.objects().front()).id != id);
        const long many = proxies();
        window_->command("delete")->trigger();
        QCOMPARE(proxies(), many - 1);
        while (d.can_undo())
            d.undo();
        d.move_camera(from);
        QCOMPARE(QString::fromStdString(bytes()), QString::fromStdString(before));
        // Drawn on the ground before the camera.
        (void)d.set("shadow.maps", true);
        window_->command("station Shadows")->trigger();
        window_->command("draw proxy")->trigger();
        const Camera c = d.project().view.camera;
        const QPoint middle = at(c.aim);
        drag(middle + QPoint(-30, 40), middle + QPoint(30, 60));
        QCOMPARE(proxies(), given + 1);
        QCOMPARE(selection.objects().size(), std::size_t(1));
        QVERIFY(d.object_edit(selection.objects().front()).scale.y == 2.0f);
        // A click beside clears, a click on it takes it again.
        const QPoint on = at(d.object_edit(selection.objects().front()).translation);
        selection.clear();
        QTest::mouseClick(&window_->viewport(), Qt::LeftButton, {}, on);
        QCOMPARE(selection.objects().size(), std::size_t(1));
        selection.clear();
        window_->findChild<QPushButton*>("against no proxies")->click();
        QVERIFY(d.project().b && !d.project().b->flag("shadow.proxies"));
        window_->findChild<QPushButton*>("give up proxies")->click();
        QCOMPARE(proxies(), 0L);
    }

    /// An audit runs beside the window, marks the picture, goes stale with the next edit, and can be stopped; a search
    /// ends in a plot whose offer is taken as one edit.
    void shadows_are_held_against_rays_beside_the_window() {
        Document& d = window_->document();
        auto* row = window_->findChild<ShadowAuditRow*>();
        auto* audit = window_->findChild<QPushButton*>("audit shadows");
        auto* facts = window_->findChild<QLabel*>("audit facts");
        auto* marks = window_->findChild<QPushButton*>("shadow marks");
        QVERIFY(!audit->isEnabled()); // there are no maps
        d.edit("a smaller target", [](Project& p) {
            p.targets[0].width = 192;
            p.targets[0].height = 108;
        });
        (void)d.set("shadow.maps", true);
        (void)d.set("shadow.casters", 2);
        window_->command("station Shadows")->trigger();
        QVERIFY(audit->isVisible() && audit->isEnabled() && !marks->isEnabled());
        const QImage bare = window_->viewport().grab().toImage();
        audit->click();
        QVERIFY(window_->auditing());
        QTRY_VERIFY_WITH_TIMEOUT(!window_->auditing() && marks->isEnabled(), 120000);
        QTRY_COMPARE(audit->text(), QString("Hold against rays"));
        QVERIFY2(facts->text().contains("missed"), qPrintable(facts->text()));
        QVERIFY(window_->viewport().shows_faults());
        QVERIFY(window_->viewport().grab().toImage() != bare);
        marks->click();
        QVERIFY(!window_->viewport().shows_faults());
        marks->click();
        (void)d.set("shadow.bias", 1.5);
        QVERIFY(!window_->viewport().shows_faults() && !marks->isEnabled());
        QVERIFY(!facts->text().contains("missed"));
        // Stopped at once.
        audit->click();
        QTRY_COMPARE(audit->text(), QString("Stop"));
        audit->click();
        QTRY_VERIFY_WITH_TIMEOUT(!window_->auditing(), 60000);
        QVERIFY(!marks->isEnabled());
        // One lamp's view is enough to search in.
        (void)d.set("shadow.casters", 1);
        auto* plot = window_->findChild<BiasPlot*>();
        QVERIFY(!plot->isVisible());
        window_->findChild<QPushButton*>("find bias")->click();
        QTRY_VERIFY_WITH_TIMEOUT(plot->isVisible() && !window_->auditing(), 240000);
        QVERIFY(plot->solution() && plot->solution()->points.size() > 10);
        const BiasPoint best = plot->solution()->best;
        QVERIFY(best.falsely <= row->bound() || !plot->solution()->under);
        QVERIFY(plot->place_of(plot->solution()->before) != plot->place_of(best));
        window_->findChild<QPushButton*>("take bias")->click();
        QCOMPARE(setup().number("shadow.bias"), best.set.bias);
        QCOMPARE(setup().number("shadow.normalOffset"), best.set.normalOffset);
        d.undo();
        QCOMPARE(setup().number("shadow.bias"), 1.5);
    }

    /// A point that has maps is tried as spots, of which one choice is kept as one step; any edit makes it stale.
    void a_point_is_tried_as_spots() {
        Document& d = window_->document();
        for (const Light& l : d.project().lights)
            if (l.name == "pier bollard 01")
                d.edit_light("brighter", l.id, [](Light& bright) { bright.intensity = 2000; }); // it gets maps
        (void)d.set("shadow.casters", 4);
        const ShadowSet set = shown_figure()->maps();
        const DrawList draws = build_draw_list(d.scene(), setup(), d.project().view);
        int point = -1;
        for (const ShadowedLight& l : set.lights)
            if (const Light& light = draws.lights[static_cast<std::size_t>(l.light)];
                light.type == LightType::point && point < 0)
                point = light.id;
        QVERIFY(point >= 0);
        d.edit("small", [](Project& p) { p.targets.front().width = 160, p.targets.front().height = 90; });
        window_->select_light(point);
        auto* row = window_->findChild<SpotTrialRow*>();
        auto* figure = window_->findChild<DirectionsFigure*>();
        auto* keep = window_->findChild<QPushButton*>("keep spots");
        auto* facts = window_->findChild<QLabel*>("spot facts");
        QVERIFY(row->isVisible() && !figure->isVisible());
        // What was asked about one light is not offered for another.
        window_->findChild<QPushButton*>("try spots")->click();
        window_->select_light(draws.lights.front().id == point ? draws.lights.back().id : draws.lights.front().id);
        window_->select_light(point);
        QTRY_VERIFY_WITH_TIMEOUT(!window_->auditing(), 60000);
        QVERIFY(!keep->isVisible());
        const auto before = d.project().lights.size();
        window_->findChild<QPushButton*>("try spots")->click();
        QTRY_VERIFY_WITH_TIMEOUT(keep->isVisible() && !window_->auditing(), 240000);
        QVERIFY2(figure->isVisible() && facts->text().contains("Its 6 maps become <b>2"), qPrintable(facts->text()));
        const QImage two = figure->grab().toImage();
        const QString words = facts->text();
        auto* counts = window_->findChild<ChoiceRow*>("spot counts");
        emit counts->chosen(2);
        QVERIFY(facts->text() != words && figure->grab().toImage() != two);
        emit counts->chosen(1);
        keep->click();
        QCOMPARE(setup().whole("shadow.casters"), 6);
        QCOMPARE(d.project().lights.size(), before + 3);
        QVERIFY(!d.light(point)->enabled && window_->selection().lights().size() == 3);
        for (const int id : window_->selection().lights())
            QVERIFY(d.light(id)->type == LightType::spot && d.light(id)->position == d.light(point)->position);
        d.undo();
        QVERIFY(d.light(point)->enabled && d.project().lights.size() == before);
        window_->select_light(point);
        QVERIFY(!keep->isVisible()); // what was tried, was tried for another state
    }

    void pictures_and_layers_follow() {
        wait_for_rest();
        const QImage bare = window_->viewport().grab().toImage();
        QVERIFY(window_->document().set("shadow.maps", true).has_value());
        wait_for_rest();
        QVERIFY(window_->viewport().grab().toImage() != bare);
        emit window_->findChild<LayerStrip*>()->wanted("cascades");
        wait_for_rest();
        const QImage slices = window_->viewport().grab().toImage();
        QVERIFY(slices != bare);
        QVERIFY(window_->document().set("cascade.spread", 0.1).has_value());
        wait_for_rest();
        QVERIFY(window_->viewport().grab().toImage() != slices);
    }
};

MIROLUX_TEST(shadow_window_test)
#include "shadow_window_test.moc"

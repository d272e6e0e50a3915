#include "app/benches.h"
#include "app/choice_row.h"
#include "app/objects_bench.h"
#include "app/pixel_bench.h"
#include "app/setting_editor.h"
#include "app/target_bench.h"
#include "app/theme.h"
#include "core/light/luminance.h"
#include "support/test_main.h"
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>
#include <QtTest>

using namespace mirolux;
using namespace mirolux::app;

/// Benches on their own, filled with made-up values: what they say, what they draw, and what a hand on them changes.
class benches_test : public QObject {
    Q_OBJECT
    Document document_;

    static LightTerm term(int id, const char* name, double radiance, LightStanding standing = LightStanding::gives) {
        LightTerm t;
        t.light = id;
        t.name = name;
        t.standing = standing;
        t.listed = standing != LightStanding::missed;
        t.metres = 4;
        t.distance = 1 / 16.0;
        t.facing = 0.5;
        t.intensity = {10, 5, 0};
        t.radiance = glm::dvec3(radiance);
        return t;
    }
    /// A pane before a wall: the wall takes two lights, is missed by one, and lists one for nothing.
    static PixelAccount account() {
        PixelAccount a;
        a.pixel = {12, 34};
        a.reason = "Lit by lamp.";
        SurfaceAccount pane, wall;
        pane.object = "pane";
        pane.material = "glass";
        pane.blended = true;
        pane.weight = 0.25;
        wall.object = "wall";
        wall.material = "brick";
        wall.weight = 0.75;
        wall.lights = {term(7, "lamp", 6), term(9, "beacon", 1, LightStanding::missed), term(8, "post", 2),
                       term(5, "far", 0, LightStanding::outOfRange)};
        wall.radiance = glm::dvec3(8);
        wall.listed = 3;
        wall.useless = 1;
        a.surfaces = {pane, wall};
        a.sum = a.picture = glm::dvec3(6);
        a.skyWeight = 0.1;
        a.sky = glm::dvec3(1);
        return a;
    }
    static QStringList labels(QWidget& w) {
        QStringList out;
        for (QLabel* l : w.findChildren<QLabel*>())
            if (l->isVisibleTo(&w)) out << l->text();
        return out;
    }
    void set_targets(std::vector<Target> targets) {
        document_.edit("targets", [&](Project& p) {
            p.targets = std::move(targets);
            p.target = 0;
        });
    }
    static TargetVerdict measured(const char* name, double p95, double budget) {
        TargetVerdict v;
        v.target = name;
        v.budgetMs = budget;
        v.p50 = p95 - 2;
        v.p95 = p95;
        v.p99 = v.worst = p95 + 1;
        v.rounds = 9;
        v.standing = p95 <= budget ? TargetStanding::inside : TargetStanding::over;
        return v;
    }

private slots:
    void initTestCase() {
        use_theme(*qApp, true);
        auto opened = open_project(MIROLUX_DEMO, {.decodeImages = false});
        QVERIFY(opened.has_value());
        document_.adopt(std::move(*opened));
    }

    /// A light that the sky drives says so: what is set on it is not what shines.
    void a_light_that_the_sky_drives_says_so() {
        const Setup before = document_.project().setup;
        LightBench bench(document_);
        bench.resize(300, 700);
        bench.show();
        const auto& lights = document_.project().lights;
        const auto moon = std::find_if(lights.begin(), lights.end(), [](const Light& l) { return l.name == "moon"; });
        QVERIFY(moon != lights.end());
        bench.set_light(moon->id);
        auto* words = bench.findChild<QLabel*>("what moves it");
        QVERIFY(words && !words->text().contains("sky"));
        QVERIFY(document_.set("sky.kind", std::string("atmosphere")).has_value());
        QVERIFY2(words->text().contains("shines as the sun") && words->isVisible(), qPrintable(words->text()));
        QVERIFY(document_.set("sun.elevation", -30.0).has_value());
        QVERIFY(words->text().contains("shines as the moon"));
        QVERIFY(document_.set("sun.light", std::string("lantern")).has_value());
        QVERIFY(!words->text().contains("shines"));
        document_.edit("back", [&](Project& p) { p.setup = before; });
    }

    /// A light by name, first or not there: the row holds the scene's directional ones.
    void the_suns_light_is_one_of_the_scenes() {
        const Setup before = document_.project().setup;
        std::unique_ptr<QWidget> editor(make_setting_editor(document_, "sun.light", nullptr));
        auto* row = qobject_cast<ChoiceRow*>(editor.get());
        QVERIFY(row && row->words() == QStringList({"first", "moon"}) && row->current() == 0);
        row->resize(240, 30);
        row->show();
        QTest::mouseClick(row, Qt::LeftButton, {}, row->cell(1).center());
        QCOMPARE(document_.project().setup.choice("sun.light"), std::string("moon"));
        QVERIFY(document_.set("sun.light", std::string("lantern")).has_value());
        QVERIFY(row->words().contains("lantern") && row->current() == 2);
        document_.edit("back", [&](Project& p) { p.setup = before; });
        QCOMPARE(row->current(), 0);
    }

    void an_account_says_where_the_light_comes_from() {
        PixelBench bench;
        bench.resize(300, 700);
        bench.show();
        bench.show_account(account());
        QCOMPARE(bench.reason(), QString("Lit by lamp."));
        QVERIFY(labels(bench).contains("Pixel 12, 34"));
        QVERIFY(labels(bench).filter("Click with Alt").size() == 1);
        auto* back = bench.findChild<QPushButton*>();
        QVERIFY(!back->isVisible());
        bench.set_held(true);
        QVERIFY(back->isVisible() && labels(bench).filter("Click with Alt").isEmpty());
        QSignalSpy left(&bench, &PixelBench::back_wanted);
        QTest::mouseClick(back, Qt::LeftButton);
        QCOMPARE(left.count(), 1);
    }

    /// Bars are the shares of the pixel's luminance, in the light's own hue; a click on one takes its light.
    void bars_of_an_account_are_to_scale_and_lead_to_their_lights() {
        AccountRows rows;
        rows.resize(300, 40);
        rows.show_account(account());
        rows.resize(300, rows.height());
        rows.show();
        QVERIFY(QTest::qWaitForWindowExposed(&rows));
        // Rows in their order: pane 38, wall 38, then its lights of 48 each.
        const QImage image = rows.grab().toImage();
        const auto bar = [&](int light) {
            int lit = 0;
            for (int x = 0; x < 300; ++x)
                lit += image.pixelColor(x, 38 + 38 + 48 * light + 18).red() > 200;
            return lit;
        };
        QVERIFY(std::abs(bar(0) - 300 * 6 * 0.75 / 6) <= 2); // lamp: 6 of 6 cd/m2, by the wall's weight
        QCOMPARE(bar(1), 0);                                 // beacon: would give, and does not
        QVERIFY(std::abs(bar(2) - 300 * 2 * 0.75 / 6) <= 2);
        QVERIFY(image.pixelColor(10, 38 + 38 + 18).blue() < 40); // 10, 5, 0: no blue in it
        QSignalSpy picked(&rows, &AccountRows::light_picked);
        QTest::mouseClick(&rows, Qt::LeftButton, {}, QPoint(20, 38 + 38 + 2 * 48 + 10));
        QCOMPARE(picked.count(), 1);
        QCOMPARE(picked.back().front().toInt(), 8);
        QTest::mouseClick(&rows, Qt::LeftButton, {}, QPoint(20, 10)); // a surface is no light
        QCOMPARE(picked.count(), 1);
        QTest::mouseMove(&rows, QPoint(20, 38 + 38 + 48 + 10));
        QTRY_VERIFY(rows.toolTip().startsWith("beacon"));
        const int whole = rows.height();
        PixelAccount sky;
        sky.skyWeight = 1;
        sky.sky = sky.sum = glm::dvec3(2);
        rows.show_account(sky);
        QVERIFY(rows.height() < whole);
        rows.grab();
        rows.show_account({});
        QCOMPARE(rows.height(), 20);
    }

    /// What lies before and on the surfaces has rows too: cheap lights, the air's lamps, shafts and beams.
    void an_account_shows_air_beams_and_cheap_lights() {
        PixelAccount a = account();
        AccountRows plain;
        plain.show_account(a);
        a.surfaces[1].changes = {{1, "rim", glm::dvec3(2), glm::dvec3(4)}, {2, "shade", glm::dvec3(4), glm::dvec3(3)}};
        for (int i = 0; i < 10; ++i)
            a.airLights.push_back({i, "lamp " + std::to_string(i), glm::dvec3(0.1)});
        a.beams = {{3, "flood", glm::dvec3(3)}};
        a.shafts = glm::dvec3(1.5);
        AccountRows rows;
        rows.resize(300, 40);
        rows.show_account(a);
        QCOMPARE(rows.height() - plain.height(), 2 * 20 + 38 + 8 * 20 + 18 + 2 * 20);
        rows.grab();
    }

    /// A lamp behind a thin part says what comes through it; spread light has a row of its own, whether it adds or
    /// takes.
    void an_account_shows_light_beneath_surfaces() {
        PixelAccount a = account();
        AccountRows plain, rows;
        plain.resize(300, 40);
        plain.show_account(a);
        const QImage before = plain.grab().toImage();
        for (LightTerm& t : a.surfaces[1].lights) {
            t.through = 0.008;
            t.passed = glm::dvec3(0.3);
        }
        a.spread = glm::dvec3(-0.5);
        rows.resize(300, 40);
        rows.show_account(a);
        QCOMPARE(rows.height() - plain.height(), 20);
        QVERIFY(rows.grab().toImage().copy(before.rect()) != before);
    }

    /// A light's own beam: shown while beams are drawn; 0 is none, the low end as all.
    void a_light_has_a_beam_of_its_own() {
        const Project before = document_.project();
        LightBench bench(document_);
        bench.resize(300, 900);
        bench.show();
        const int id = before.lights[1].id;
        bench.set_light(id);
        auto* strength = bench.findChild<NumberField*>("beam strength");
        auto* length = bench.findChild<NumberField*>("beam length");
        QVERIFY(strength && length && !strength->isVisible());
        QVERIFY(document_.set("beams.kind", std::string("mesh")).has_value());
        QVERIFY2(strength->isVisible() && strength->text().contains("as all"), qPrintable(strength->text()));
        strength->put(0);
        QVERIFY(!document_.light(id)->beam.on);
        strength->put(0.2);
        QVERIFY(document_.light(id)->beam.on && document_.light(id)->beam.strength == 0.2f);
        strength->put(-0.0001);
        QVERIFY(document_.light(id)->beam.on && !document_.light(id)->beam.strength);
        length->put(7);
        QVERIFY(document_.light(id)->beam.length == 7.0f);
        document_.edit("back", [&](Project& p) { p = before; });
    }

    /// Many lights in one pixel: the strongest by name, the rest as a count.
    void an_account_of_many_lights_names_the_strongest() {
        PixelAccount a = account();
        AccountRows few, many;
        few.show_account(a);
        for (int i = 0; i < 40; ++i)
            a.surfaces[1].lights.push_back(term(100 + i, "more", 0.1));
        many.show_account(a);
        QCOMPARE(many.height() - few.height(), (14 - 3) * 48 + 18); // fourteen in all, and the line that counts
    }

    void verdicts_stand_beside_their_targets_until_something_changes() {
        Target desk = plain_target("Desk", 1280, 720, 16), hand = plain_target("Hand", 640, 360, 33);
        hand.profile = "handheld";
        hand.lightingShare = 0.5;
        set_targets({desk, hand});
        TargetBench bench(document_);
        bench.resize(300, 800);
        bench.show();
        QTableWidget& table = bench.table();
        QCOMPARE(table.rowCount(), 2);
        QCOMPARE(table.item(0, 1)->text(), QString("of 16.00 ms"));
        QCOMPARE(table.item(1, 1)->text(), QString("of 16.50 ms"));
        TargetVerdict predicted;
        predicted.target = "Hand";
        predicted.predicted = predicted.madeUp = true;
        predicted.profile = "handheld";
        predicted.budgetMs = 16.5;
        predicted.ms = 16;
        predicted.lowMs = 12;
        predicted.highMs = 20;
        bench.show_verdicts({measured("Desk", 21.5, 16), predicted});
        QCOMPARE(table.item(0, 2)->text(), QString("over by\n5.5 ms"));
        QCOMPARE(table.item(0, 2)->foreground().color(), theme().alarm);
        QCOMPARE(table.item(0, 1)->text(), QString("21.5 of 16.00 ms\np95, measured"));
        QCOMPARE(table.item(1, 2)->text(), QString("not sure"));
        QVERIFY(table.item(1, 0)->toolTip().contains("error bar 12.00 to 20.00; the profile is made up"));
        bench.show_verdicts({measured("Desk", 10, 16), predicted});
        QCOMPARE(table.item(0, 2)->text(), QString("inside,\n6.0 ms left"));
        // Another camera is another frame; undo brings back what was judged.
        document_.edit("light", [](Project& p) { p.lights[0].intensity *= 2; });
        QCOMPARE(table.item(0, 2)->text(), QString("not judged"));
        document_.undo();
        QCOMPARE(table.item(0, 2)->text(), QString("inside,\n6.0 ms left"));
    }

    void numbers_of_a_target_change_it_and_go_back() {
        set_targets({plain_target("Desk", 1280, 720, 16)});
        TargetBench bench(document_);
        bench.resize(300, 800);
        bench.show();
        const auto field = [&](const char* name) { return bench.findChild<NumberField*>(name); };
        QCOMPARE(field("target width")->value(), 1280.0);
        QCOMPARE(field("target refresh")->text(), QString("free"));
        field("target refresh")->put(50);
        QCOMPARE(document_.target().frameMs, 20.0);
        QCOMPARE(field("target frame")->value(), 20.0);
        field("target frame")->put(12.5); // a frame time of one's own has no refresh rate
        QCOMPARE(document_.target().hz, 0.0);
        field("target lighting")->put(40);
        QCOMPARE(budget_ms(document_.target()), 5.0);
        field("target height")->put(480);
        QCOMPARE(document_.project().view.height, 480);
        // While a field is dragged all its values are one step.
        emit field("target width")->scrubbing(true);
        for (const double w : {1000, 900, 800})
            field("target width")->put(w);
        emit field("target width")->scrubbing(false);
        QCOMPARE(document_.target().width, 800);
        document_.undo();
        QCOMPARE(document_.target().width, 1280);
        auto* name = bench.findChild<QLineEdit*>();
        name->setFocus();
        name->setText("  Terminal  ");
        emit name->editingFinished();
        QCOMPARE(document_.target().name, std::string("Terminal"));
        name->setText("   ");
        emit name->editingFinished();
        QCOMPARE(document_.target().name, std::string("Terminal")); // no target without a name
        const auto press = [&](const char* text) {
            for (QPushButton* b : bench.findChildren<QPushButton*>())
                if (b->text() == text) return QTest::mouseClick(b, Qt::LeftButton);
            qFatal("no button %s", text);
        };
        press("Add a target");
        QCOMPARE(document_.project().targets.size(), std::size_t(2));
        QCOMPARE(document_.project().target, 1);
        press("Delete this one");
        press("Delete this one");
        QCOMPARE(document_.project().targets.size(), std::size_t(1)); // the last one stays
    }

    void objects_are_ordered_and_found_in_their_table() {
        ObjectTable table;
        std::vector<ObjectRow> rows;
        const auto add = [&](const char* id, std::uint64_t triangles, std::uint64_t fragments, bool inView) {
            ObjectRow r;
            r.object = static_cast<int>(rows.size());
            r.id = r.name = id;
            r.triangles = triangles;
            r.fragments = fragments;
            r.evaluations = 3 * fragments;
            r.inView = inView;
            rows.push_back(r);
        };
        add("crane", 900, 10, true);
        add("car 01", 200, 400, true);
        add("car 02", 100, 0, false);
        add("bollard", 30, 70, true);
        table.set_rows(rows, true);
        const auto order = [&] {
            std::vector<int> out;
            for (int i = 0; i < table.rowCount(); ++i)
                out.push_back(table.object(i));
            return out;
        };
        QCOMPARE(order(), (std::vector<int>{1, 3, 0, 2})); // dearest first
        table.sort(ObjectTable::triangles, Qt::AscendingOrder);
        QCOMPARE(order(), (std::vector<int>{3, 2, 1, 0}));
        table.sort(ObjectTable::name, Qt::AscendingOrder);
        QCOMPARE(order(), (std::vector<int>{3, 1, 2, 0}));
        QSignalSpy reset(&table, &QAbstractItemModel::modelReset);
        table.find("car");
        QCOMPARE(order(), (std::vector<int>{1, 2}));
        QCOMPARE(table.row_of(2), 1);
        QCOMPARE(table.row_of(0), -1);
        QVERIFY(reset.count() + table.rowCount() > 2);
        table.find("nothing of that name");
        QCOMPARE(table.rowCount(), 0);
        QCOMPARE(table.all(), std::size_t(4));
        table.find({});
        QCOMPARE(table.rowCount(), 4);
        QCOMPARE(table.data(table.index(0, ObjectTable::name), Qt::DisplayRole).toString(), QString("bollard"));
        // Not counted yet: no cost is shown as if it were none.
        table.set_rows(rows, false);
        for (int i = 0; i < 4; ++i)
            QVERIFY(table.data(table.index(i, ObjectTable::fragments), Qt::DisplayRole).toString() != "0");
        for (int c = 0; c < ObjectTable::columns; ++c)
            QVERIFY(!table.headerData(c, Qt::Horizontal, Qt::DisplayRole).toString().isEmpty());
    }
};

MIROLUX_TEST(benches_test)
#include "benches_test.moc"

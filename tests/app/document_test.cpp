#include "app/document.h"
#include "support/test_main.h"
#include <QTemporaryDir>
#include <QtTest>
#include <set>

using namespace mirolux;
using namespace mirolux::app;

/// The open project as a value with its history, without a window.
class document_test : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;

    void open(Document& d, const QString& name) {
        auto opened = open_project(MIROLUX_DEMO, {.decodeImages = false});
        if (!opened) qFatal("%s", to_text(opened.error()).c_str());
        opened->project.path = folder_.filePath(name + ".mirolux").toStdString();
        if (!save_project(opened->project, *opened->asset, opened->project.path)) qFatal("not written");
        auto again = open_project(opened->project.path, {.decodeImages = false});
        if (!again) qFatal("%s", to_text(again.error()).c_str());
        d.adopt(std::move(*again));
    }
    static double ev(const Document& d) { return d.project().setup.number("exposure.ev100"); }

private slots:
    void every_edit_can_be_undone_and_made_again() {
        Document d;
        open(d, "undo");
        const Project before = d.project();
        QVERIFY(!d.can_undo() && !d.can_redo() && !d.dirty());
        QSignalSpy changed(&d, &Document::changed);
        QVERIFY(d.set("path.kind", std::string("deferred")).has_value());
        QVERIFY(d.set("exposure.ev100", 2.0).has_value());
        const int id = d.add_light(Light{});
        d.edit_light("move", id, [](Light& l) { l.position.x = 4; });
        QCOMPARE(changed.count(), 4);
        const Project after = d.project();
        QVERIFY(d.dirty());
        for (int i = 0; i < 4; ++i)
            d.undo();
        QVERIFY(d.project() == before && !d.can_undo() && !d.dirty());
        d.undo(); // nothing is left to undo
        QVERIFY(d.project() == before);
        for (int i = 0; i < 4; ++i)
            d.redo();
        QVERIFY(d.project() == after && !d.can_redo());
        d.undo();
        QCOMPARE(d.redo_label(), QString("move"));
        QVERIFY(d.set("exposure.ev100", 3.0).has_value()); // another way: what was undone is gone
        QVERIFY(!d.can_redo());
    }

    void a_drag_is_one_step_and_two_drags_are_two() {
        Document d;
        open(d, "drag");
        const auto drag = [&](double to) {
            d.set_interactive(true);
            for (int i = 1; i <= 20; ++i)
                (void)d.set("exposure.ev100", to * i / 20, "scrub");
            d.set_interactive(false);
        };
        QSignalSpy settled(&d, &Document::settled);
        drag(1);
        drag(3);
        QCOMPARE(settled.count(), 2);
        QCOMPARE(ev(d), 3.0);
        d.undo();
        QCOMPARE(ev(d), 1.0);
        d.undo();
        QCOMPARE(ev(d), 0.0);
        QVERIFY(!d.can_undo());
    }

    void what_is_refused_changes_nothing() {
        Document d;
        open(d, "refused");
        const Project before = d.project();
        QVERIFY(!d.set("path.kind", std::string("sideways")).has_value());
        QVERIFY(!d.set("path.maxLights", 100000).has_value());
        d.edit_light("nobody", -77, [](Light& l) { l.intensity = 0; });
        QVERIFY(d.project() == before);
    }

    void the_camera_is_no_edit() {
        Document d;
        open(d, "camera");
        QSignalSpy moved(&d, &Document::camera_moved);
        Camera c = d.project().view.camera;
        c.eye.y += 1;
        d.move_camera(c);
        QCOMPARE(d.project().view.camera, c);
        QVERIFY(!moved.isEmpty() && !d.dirty() && !d.can_undo());
        QVERIFY(d.set("exposure.ev100", 1.0).has_value());
        d.undo(); // brings the exposure back, not the camera
        QCOMPARE(d.project().view.camera, c);
    }

    void ids_of_lights_are_never_given_twice() {
        Document d;
        open(d, "ids");
        std::set<int> ids;
        for (const Light& l : d.project().lights)
            QVERIFY(ids.insert(l.id).second);
        for (int i = 0; i < 5; ++i)
            QVERIFY(ids.insert(d.add_light(Light{})).second);
        QVERIFY(d.light(*ids.rbegin()) && !d.light(-1));
    }

    /// Resting on a choice tells its setup and view, and leaves everything as it is.
    void considering_is_no_edit() {
        Document d;
        open(d, "consider");
        const Project before = d.project();
        std::optional<Consideration> told;
        int times = 0;
        connect(&d, &Document::considered, this, [&](const std::optional<Consideration>& c) {
            told = c;
            ++times;
        });
        d.consider("path.kind", std::string("deferred"));
        QVERIFY(told && told->setup.choice("path.kind") == "deferred");
        QVERIFY2(told->words.contains("deferred"), qPrintable(told->words));
        QCOMPARE(told->view.width, d.target().width);
        d.consider("path.kind", d.project().setup.choice("path.kind")); // the present one
        QVERIFY(!told);
        d.consider("path.kind", std::string("sideways"));
        QVERIFY(!told);
        d.consider_target(d.project().target);
        QVERIFY(!told);
        const int other = d.project().target == 0 ? 1 : 0;
        d.consider_target(other);
        QVERIFY(told && told->view.width == d.project().targets[std::size_t(other)].width);
        QVERIFY(told->setup == d.project().setup);
        d.consider_target(99);
        QVERIFY(!told);
        QVERIFY(d.project() == before && !d.can_undo() && times == 6);
    }

    void saving_clears_the_mark_and_reading_gives_the_same() {
        Document d;
        open(d, "save");
        QVERIFY(d.set("exposure.ev100", 2.5).has_value());
        d.edit_light("name", d.project().lights[3].id, [](Light& l) { l.name = "renamed"; });
        QVERIFY(d.dirty());
        QSignalSpy saved(&d, &Document::saved);
        const QString path = folder_.filePath("save as.mirolux");
        QVERIFY(d.save(path).has_value());
        QVERIFY(!d.dirty() && saved.count() == 1);
        auto again = open_project(path.toStdString(), {.decodeImages = false});
        QVERIFY(again.has_value());
        QVERIFY(again->project.lights == d.project().lights && again->project.setup == d.project().setup);
        d.undo();
        QVERIFY(d.dirty()); // not what is on disk
        d.redo();
        QVERIFY(!d.dirty());
        QVERIFY(!d.save("/nowhere/at/all.mirolux").has_value());
        QVERIFY(!d.dirty());
    }

    void unsaved_work_is_kept_aside_and_cleared_at_a_clean_end() {
        Document d;
        open(d, "aside");
        const auto aside = autosave_path(d.project().path);
        QVERIFY(d.set("exposure.ev100", 1.5).has_value());
        QTRY_VERIFY_WITH_TIMEOUT(std::filesystem::exists(aside), 8000);
        auto kept = open_autosave(d.project().path, {.decodeImages = false});
        QVERIFY(kept && kept->project.setup.number("exposure.ev100") == 1.5);
        d.forget_autosave();
        QVERIFY(!std::filesystem::exists(aside));
    }

    void another_document_of_the_same_project_is_told_apart() {
        Document first;
        open(first, "shared");
        QVERIFY(!first.shared());
        Document second;
        auto opened = open_project(first.project().path, {.decodeImages = false});
        QVERIFY(opened.has_value());
        second.adopt(std::move(*opened));
        QVERIFY(second.shared() && !first.shared());
    }

    void history_has_an_end_and_the_newest_steps_stay() {
        Document d;
        open(d, "long");
        for (int i = 1; i <= 450; ++i)
            (void)d.set("path.maxLights", i % 30 + 1);
        int steps = 0;
        while (d.can_undo()) {
            d.undo();
            ++steps;
        }
        QVERIFY2(steps >= 300 && steps <= 450, qPrintable(QString::number(steps)));
        while (d.can_redo())
            d.redo();
        QCOMPARE(d.project().setup.whole("path.maxLights"), 450 % 30 + 1);
    }
};

MIROLUX_TEST(document_test)
#include "document_test.moc"

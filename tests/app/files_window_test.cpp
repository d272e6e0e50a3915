#include "app/layer_strip.h"
#include "app/stations.h"
#include "core/io/file.h"
#include "support/plate.h"
#include "window_fixture.h"
#include <QDragEnterEvent>
#include <QMimeData>

using namespace mirolux;
using namespace mirolux::app;
using namespace mirolux::test;

/// What the window does about files that change or are shared, and what its tables of parts show.
class files_window_test : public QObject, private WindowFixture {
    Q_OBJECT

    /// The project with a scene file of its own, so that a test may change it.
    QString scene_;
    void own_scene() {
        auto open = open_project(project_.toStdString(), {.decodeImages = false});
        scene_ = folder_.filePath(QString(QTest::currentTestFunction()) + ".glb");
        QVERIFY(QFile::copy(QString::fromStdString(open->project.scenePath), scene_));
        Project p = open->project;
        p.scenePath = scene_.toStdString();
        QVERIFY(save_project(p, *open->asset, p.path).has_value());
        window_->document().forget_autosave();
        QVERIFY(window_->open(project_, false));
    }
    /// Another intensity for the first light that names one: one digit of the JSON chunk.
    void change_scene() {
        QFile file(scene_);
        QVERIFY(file.open(QIODevice::ReadOnly));
        QByteArray bytes = file.readAll();
        const auto at = bytes.indexOf("\"intensity\":");
        QVERIFY(at > 0);
        bytes[at + 12] = bytes[at + 12] == '9' ? '8' : '9';
        QVERIFY(write_file_atomically(scene_.toStdString(), bytes.toStdString()).has_value());
    }

private slots:
    void initTestCase() { use_theme(*qApp, true); }
    void init() { open_window(); }
    void cleanup() { close_window(); }

    void stations_come_from_their_settings_and_show_what_applies() {
        QStringList names;
        for (const Station& s : stations())
            names << s.name;
        QCOMPARE(names, (QStringList{"Scene", "Lights", "Path", "Shadows", "Ambient", "Air", "Finish"}));
        window_->set_station("Air");
        QWidget* extinction = window_->findChild<QWidget*>("air.extinction");
        QVERIFY(extinction && !extinction->isVisible());
        QVERIFY(window_->document().set("air.kind", std::string("uniform")).has_value());
        QTRY_VERIFY(extinction->isVisible());
        window_->command("undo")->trigger();
        QTRY_VERIFY(!extinction->isVisible());
    }

    /// A scene without lights is lit and exposed as it opens, by edits; the picture that comes first is the exposed
    /// one.
    void ones_own_scene_opens_lit_and_undo_takes_it_back() {
        const QString file = folder_.filePath("plate.gltf");
        QVERIFY(write_plate(file));
        QSignalSpy pictures(&window_->bridge(), &RenderBridge::picture_ready);
        QVERIFY(window_->open(file));
        const int before = static_cast<int>(pictures.count());
        Document& d = window_->document();
        QCOMPARE(d.project().lights.size(), std::size_t(1));
        QVERIFY2(window_->status_text().contains("key light"), qPrintable(window_->status_text()));
        QTRY_VERIFY_WITH_TIMEOUT(d.project().setup.number("exposure.ev100") != 0, 30000);
        QTRY_VERIFY_WITH_TIMEOUT(pictures.count() > before, 30000);
        const QImage image = pictures[before].front().value<QImage>();
        const QColor middle = image.pixelColor(image.width() / 2, image.height() / 2);
        QVERIFY2(middle.lightnessF() > 0.1 && middle.lightnessF() < 0.75, qPrintable(middle.name()));
        QCOMPARE(d.undo_label(), QString("metered exposure"));
        d.undo();
        QCOMPARE(d.project().setup.number("exposure.ev100"), 0.0);
        d.undo();
        QVERIFY(d.project().lights.empty() && !d.can_undo());
        QVERIFY(d.project().sky == Sky{});
        if (window_->bridge().device()->software()) QCOMPARE(d.target().name, std::string("Software"));
    }

    void a_scene_with_lights_is_only_exposed_and_a_project_is_left_alone() {
        auto open = open_project(project_.toStdString(), {.decodeImages = false});
        const QString scene = QString::fromStdString(open->project.scenePath);
        QVERIFY(window_->open(scene));
        Document& d = window_->document();
        const std::size_t lights = d.project().lights.size();
        QTRY_COMPARE_WITH_TIMEOUT(d.undo_label(), QString("metered exposure"), 60000);
        QCOMPARE(d.project().lights.size(), lights);
        d.forget_autosave();
        QVERIFY(window_->open(project_, false));
        wait_for_rest();
        QVERIFY(!d.can_undo());
    }

    void files_are_dropped_and_the_latest_are_remembered() {
        const QString file = folder_.filePath("dropped plate.gltf");
        QVERIFY(write_plate(file));
        QMimeData data;
        data.setUrls({QUrl::fromLocalFile("/etc/hostname"), QUrl::fromLocalFile(file)});
        QDragEnterEvent enter({20, 20}, Qt::CopyAction, &data, Qt::LeftButton, {});
        QApplication::sendEvent(window_.get(), &enter);
        QVERIFY(enter.isAccepted());
        QDropEvent drop(QPointF(20, 20), Qt::CopyAction, &data, Qt::LeftButton, {});
        QApplication::sendEvent(window_.get(), &drop);
        QVERIFY(window_->document().project().scenePath.find("dropped plate") != std::string::npos);
        QMimeData other;
        other.setUrls({QUrl::fromLocalFile("/etc/hostname")});
        QDragEnterEvent refused({20, 20}, Qt::CopyAction, &other, Qt::LeftButton, {});
        refused.setAccepted(false);
        QApplication::sendEvent(window_.get(), &refused);
        QVERIFY(!refused.isAccepted());
        QCOMPARE(window_->recent_files().front(), file);
        QVERIFY(window_->open(project_, false));
        QCOMPARE(window_->recent_files().mid(0, 2), (QStringList{project_, file}));
        for (int i = 0; i < 12; ++i)
            QVERIFY(window_->open(i % 2 ? project_ : file, false));
        QCOMPARE(window_->recent_files().mid(0, 2), (QStringList{project_, file})); // each once
        QVERIFY(window_->recent_files().size() <= 8);
    }

    void layers_that_show_nothing_are_not_offered() {
        LayerStrip* strip = window_->findChild<LayerStrip*>();
        const auto offered = [&](const char* name) {
            const auto& shown = strip->layers();
            return std::any_of(shown.begin(), shown.end(),
                               [&](const LayerStrip::Shown& s) { return s.layer->name == name; });
        };
        QVERIFY(offered("albedo") && !offered("transmittance") && !offered("light"));
        QVERIFY(window_->document().set("air.kind", std::string("uniform")).has_value());
        QTRY_VERIFY(offered("transmittance") && offered("airlight"));
        strip->set_held("transmittance");
        window_->select_light(window_->document().project().lights.front().id);
        QVERIFY(offered("light"));
        window_->command("undo")->trigger();
        QTRY_VERIFY(!offered("transmittance"));
        QCOMPARE(strip->held(), QString("final")); // what was held is gone
    }

    void a_scene_file_saved_anew_is_read_again_with_the_edits_kept() {
        own_scene();
        wait_for_rest();
        Document& d = window_->document();
        const Light edited = light_named("quay bollard 02");
        d.edit_light("test", edited.id, [](Light& l) { l.range = 3.25f; });
        const auto before = d.asset();
        QSignalSpy reloaded(window_.get(), &MainWindow::scene_reloaded);
        change_scene();
        QVERIFY(reloaded.wait(20000));
        QVERIFY(d.asset() != before && d.asset()->fileDigest != before->fileDigest);
        QCOMPARE(d.light(edited.id)->range, 3.25f);
        QVERIFY2(window_->status_text().contains("scene file has changed"), qPrintable(window_->status_text()));
        wait_for_rest(); // and it is rendered: the worker reads the new file too
        window_->command("undo")->trigger();
        QVERIFY(d.can_redo());
    }

    void a_second_window_keeps_its_unsaved_work_apart() {
        MainWindow second(options());
        second.show();
        QVERIFY(second.open(project_, false));
        QVERIFY(!window_->document().shared() && second.document().shared());
        QVERIFY2(second.status_text().contains("another window"), qPrintable(second.status_text()));
        const std::filesystem::path autosave = autosave_path(project_.toStdString());
        for (MainWindow* w : {window_.get(), &second})
            QVERIFY(w->document().set("path.maxLights", 5).has_value());
        QTRY_VERIFY_WITH_TIMEOUT(std::filesystem::exists(autosave), 5000);
        const std::filesystem::path own = autosave.string() + "-" + std::to_string(QCoreApplication::applicationPid());
        QTRY_VERIFY_WITH_TIMEOUT(std::filesystem::exists(own), 5000);
        second.document().forget_autosave(); // discarding there
        QVERIFY(std::filesystem::exists(autosave) && !std::filesystem::exists(own));
    }

    void a_measurement_is_logged_where_it_was_begun() {
        wait_for_rest();
        const QString first = project_, other = fresh_project("another");
        QSignalSpy changed(&window_->bridge(), &RenderBridge::measured);
        window_->log_state(4);
        QVERIFY(window_->open(other, false));
        QVERIFY(changed.wait(60000) || changed.count() > 0);
        QTRY_VERIFY(!window_->bridge().measuring());
        auto mine = Logbook::open(logbook_path(first.toStdString()));
        QVERIFY(mine.has_value());
        QCOMPARE(mine->entries()->size(), std::size_t(1));
        QVERIFY(window_->entries().empty());
    }
};

MIROLUX_TEST(files_window_test)
#include "files_window_test.moc"

#pragma once
#include "app/main_window.h"
#include "app/theme.h"
#include "support/test_main.h"
#include <QApplication>
#include <QtTest>

namespace mirolux::test {

/// A window with a fresh copy of the demo project for each test of a class: small target first, then a desk's.
class WindowFixture {
protected:
    QTemporaryDir folder_;
    std::unique_ptr<app::MainWindow> window_;
    QString project_;

    static WorkerOptions options() {
        WorkerOptions o;
        o.workerPath = MIROLUX_BIN "/mirolux-worker";
        o.eager = true;
        return o;
    }
    QString fresh_project(const QString& name) {
        auto open = open_project(MIROLUX_DEMO, {.decodeImages = false});
        Project p = open->project;
        p.targets = {plain_target("Small", 320, 180, 50), plain_target("Desk", 1280, 720, 16.67)};
        p.target = 0;
        (void)p.setup.set("shadow.maps", false); // tests of shadows switch them on; the others need not wait for them
        p.path = folder_.filePath(name + ".mirolux").toStdString();
        if (!save_project(p, *open->asset, p.path)) qFatal("project could not be written");
        return QString::fromStdString(p.path);
    }
    void wait_for_rest() {
        QSignalSpy settled(window_.get(), &app::MainWindow::settled_down);
        QVERIFY(settled.wait(60000));
    }
    /// The station's figure, once it has been laid out.
    template <class T>
    T* figure(const QString& station) {
        window_->set_station(station);
        T* found = window_->findChild<T*>();
        QTest::qWait(80);
        return found;
    }
    QPoint at(const glm::vec3& p) { return window_->viewport().place_of(p)->toPoint(); }
    const Light& light_named(const std::string& name) {
        for (const Light& l : window_->document().project().lights)
            if (l.name == name) return l;
        qFatal("no light %s", name.c_str());
    }
    void drag(const QPoint& from, const QPoint& to) {
        app::Viewport* v = &window_->viewport();
        QTest::mouseMove(v, from);
        QTest::mousePress(v, Qt::LeftButton, {}, from);
        for (int i = 1; i <= 6; ++i) {
            const QPoint p = from + (to - from) * i / 6;
            QMouseEvent move(QEvent::MouseMove, p, v->mapToGlobal(p), Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(v, &move);
            QTest::qWait(5);
        }
        QTest::mouseRelease(v, Qt::LeftButton, {}, to);
    }

    void open_window() {
        project_ = fresh_project(QTest::currentTestFunction());
        window_ = std::make_unique<app::MainWindow>(options());
        window_->show();
        QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
        QVERIFY(window_->open(project_, false));
    }
    void close_window() {
        window_->document().forget_autosave();
        window_.reset();
        QSettings().clear(); // what one test leaves is not another's
    }
};

} // namespace mirolux::test

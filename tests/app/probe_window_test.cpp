#include "app/choice_row.h"
#include "app/ledger_cut.h"
#include "app/number_field.h"
#include "app/probe_row.h"
#include "core/ambient/probe_capture.h"
#include "window_fixture.h"
#include <QListWidget>
#include <QPushButton>

using namespace mirolux;
using namespace mirolux::app;
using namespace mirolux::test;

/// Probes at the Ambient station: placed, taken by their balls, captured by hand and by themselves.
class probe_window_test : public QObject, WindowFixture {
    Q_OBJECT
    Document& doc() { return window_->document(); }
    const std::vector<Probe>& probes() { return doc().project().probes; }
    ProbeRow* row() { return window_->findChild<ProbeRow*>(); }
    QPushButton* button(const char* name) { return row()->findChild<QPushButton*>(name); }
    /// All are captured in the light as it is.
    bool captured() {
        return QTest::qWaitFor(
            [&] {
                return std::all_of(probes().begin(), probes().end(), [&](const Probe& p) {
                    return p.captured == capture_digest(doc().scene(), doc().project().setup, doc().project().view, p);
                });
            },
            120000);
    }
    void recapture_all(Recapture how) {
        doc().edit("recapture", [how](Project& p) {
            for (Probe& probe : p.probes)
                probe.recapture = how;
        });
    }

private slots:
    void initTestCase() { use_theme(*qApp, true); }
    void init() {
        open_window();
        QApplication::setActiveWindow(window_.get());
        window_->set_station("Ambient");
        doc().edit("probes", [](Project& p) {
            for (const auto& [key, value] : {std::pair("ambient.kind", "environment"),
                                             {"probe.size", "16"},
                                             {"environment.size", "32"},
                                             {"path.kind", "tiled-deferred"}})
                (void)p.setup.set_text(key, value);
        });
        recapture_all(Recapture::byHand);
        QVERIFY(!row()->isVisible()); // nothing would use them
        QVERIFY(doc().set("probe.kind", std::string("captured")).has_value());
        QVERIFY(row()->isVisible());
        QCOMPARE(row()->findChild<QListWidget*>("probes")->count(), 6);
    }
    void cleanup() { close_window(); }

    /// Told what it takes, captured on a button, said when the light is another; no step of the history.
    void they_are_captured_by_hand() {
        QVERIFY(row()->words().contains("Not captured yet"));
        QVERIFY2(
            QTest::qWaitFor([&] { return row()->words().contains(QRegularExpression("16x16: about \\d+ ms")); }, 60000),
            qPrintable(row()->words()));
        QTest::mouseClick(button("capture probe"), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(row()->words().contains("Captured in this light"), 60000);
        const Probe& hall = probes()[0];
        QVERIFY(QFile::exists(QString::fromStdString(hall.file)) &&
                hall.file.find(".probes/hall-0.exr") != std::string::npos);
        QVERIFY(probes()[1].file.empty());
        doc().edit_light("brighter", doc().project().lights[3].id, [](Light& l) { l.intensity *= 2; });
        QVERIFY2(row()->words().contains("Captured in other light"), qPrintable(row()->words()));
        doc().undo();
        QVERIFY(row()->words().contains("Captured in this light") && !probes()[0].file.empty());
        window_->command("capture probes")->trigger();
        QVERIFY(captured());
    }

    /// changed: as soon as the picture rests; in turn: one after the other, until all are right.
    void they_are_captured_by_themselves() {
        recapture_all(Recapture::changed);
        QVERIFY(captured());
        const std::string before = probes()[0].captured;
        doc().edit_light("brighter", doc().project().lights[3].id, [](Light& l) { l.intensity *= 2; });
        QVERIFY(probes()[0].captured == before);
        QVERIFY(captured());
        QVERIFY(probes()[0].captured != before);
        recapture_all(Recapture::inTurn);
        QSignalSpy taken(&window_->bridge(), &RenderBridge::captured);
        doc().edit_light("dimmer", doc().project().lights[3].id, [](Light& l) { l.intensity *= 0.25f; });
        QVERIFY(captured());
        QCOMPARE(taken.count(), 6);
    }

    /// A capture that comes back to another scene is nobody's, though probes there have the same ids.
    void a_capture_of_a_scene_that_is_left_changes_nothing() {
        const QString other = fresh_project("other");
        QSignalSpy back(&window_->bridge(), &RenderBridge::captured);
        window_->command("capture probes")->trigger();
        QVERIFY(window_->capturing());
        QVERIFY(window_->open(other, false));
        QTRY_COMPARE_WITH_TIMEOUT(back.count(), 1, 120000);
        for (const Probe& p : probes())
            QVERIFY(p.file.empty() && p.captured.empty());
        QVERIFY(!window_->capturing());
    }

    /// Numbers, handles and the fitted box; each is a step to be undone.
    void they_are_placed_and_moved() {
        Camera c = doc().project().view.camera;
        c.eye = {-2, 1.8f, 8};
        c.aim = {-2, 1.6f, 3};
        doc().move_camera(c);
        QTest::mouseClick(button("place probe"), Qt::LeftButton);
        QCOMPARE(probes().size(), std::size_t(7));
        const Probe fresh = probes().back();
        QVERIFY(std::abs(glm::length(fresh.position - c.eye) - 2) < 1e-3f);
        // Its box reaches to floor and roof, and holds its place.
        QVERIFY2(fresh.size.y > 3.5f && fresh.size.y < 5.5f, qPrintable(QString::number(fresh.size.y)));
        QVERIFY(claim(fresh, glm::dvec3(fresh.position)) > 0);
        QCOMPARE(window_->selection().probe(), fresh.id);
        row()->findChild<NumberField*>("probe weight")->put(0.5);
        QCOMPARE(probes().back().weight, 0.5f);
        // Its handles carry the box along.
        Viewport& v = window_->viewport();
        const auto handles = v.handles();
        QVERIFY(handles.size() >= 4);
        for (const Handle& h : handles)
            if (h.kind == HandleKind::axisX) drag(at(h.position), at(h.position) + QPoint(30, 0));
        const Probe moved = probes().back();
        QVERIFY(moved.position != fresh.position);
        QVERIFY(glm::length((moved.center - fresh.center) - (moved.position - fresh.position)) < 1e-3f);
        QCOMPARE(moved.size, fresh.size);
        row()->findChild<NumberField*>("box height")->put(1);
        QTest::mouseClick(button("fit probe"), Qt::LeftButton);
        QVERIFY(probes().back().size.y > 3);
        QTest::mouseClick(button("delete probe"), Qt::LeftButton);
        QCOMPARE(probes().size(), std::size_t(6));
        doc().undo();
        QCOMPARE(probes().size(), std::size_t(7));
    }

    /// A click on a ball in the picture takes its probe; elsewhere no ball stands.
    void balls_are_taken_in_the_picture() {
        Camera c = doc().project().view.camera;
        c.eye = {-7, 2.0f, 10.5f};
        c.aim = {-2, 2.0f, 6};
        doc().move_camera(c);
        QTRY_VERIFY(window_->viewport().has_picture());
        const auto place = window_->viewport().place_of(probes()[1].position);
        QVERIFY(place.has_value());
        QTest::mouseClick(&window_->viewport(), Qt::LeftButton, {}, place->toPoint());
        QCOMPARE(window_->selection().probe(), probes()[1].id);
        QCOMPARE(row()->chosen(), probes()[1].id);
        const QImage with = window_->viewport().grab().toImage();
        window_->set_station("Air");
        QCOMPARE(window_->selection().probe(), -1);
        QVERIFY(window_->viewport().grab().toImage() != with);
    }

    /// A capture that cannot be written is said once, and nothing else stops.
    void what_cannot_be_written_is_said() {
        QFile blocking(folder_.filePath("what_cannot_be_written_is_said.probes")); // a file in the folder's place
        QVERIFY(blocking.open(QIODevice::WriteOnly));
        blocking.close();
        QSignalSpy refused(&window_->bridge(), &RenderBridge::capture_failed);
        recapture_all(Recapture::changed);
        QTRY_COMPARE_WITH_TIMEOUT(refused.count(), 1, 60000);
        QTest::qWait(1500);
        QCOMPARE(refused.count(), 1); // not again and again
        QVERIFY(probes()[0].file.empty());
        QVERIFY(blocking.remove());
        window_->command("capture probes")->trigger();
        QVERIFY(captured());
    }

    /// The ledger's last rows: ambient light and where it comes from.
    void the_ledger_splits_ambient_light() {
        window_->command("capture probes")->trigger();
        QVERIFY(captured());
        window_->command("cut by light")->trigger();
        auto* cut = window_->findChild<LedgerCut*>();
        QTRY_VERIFY_WITH_TIMEOUT(cut->ledger().ambient.size() == 3, 60000);
        QCOMPARE(cut->ledger().ambient[2].source, std::string("probes"));
        const double sum = cut->ledger().ambient[1].contributionShare + cut->ledger().ambient[2].contributionShare;
        QVERIFY(std::abs(sum - cut->ledger().ambient[0].contributionShare) < 1e-6);
    }
};

MIROLUX_TEST(probe_window_test)
#include "probe_window_test.moc"

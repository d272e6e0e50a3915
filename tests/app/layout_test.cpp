#include "window_fixture.h"
#include <QSplitter>
#include <QStatusBar>

using namespace mirolux;
using namespace mirolux::app;
using namespace mirolux::test;

/// How the window is divided, and that it comes back so.
class layout_test : public QObject, WindowFixture {
    Q_OBJECT
    using Panel = MainWindow::Panel;
    QWidget* logbook() { return &window_->logbook_panel(); }
    void open_again() { // as another run does
        window_->document().forget_autosave();
        window_ = std::make_unique<MainWindow>(options());
        window_->show();
        QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
        QVERIFY(window_->open(project_, false));
    }
    static bool kept(const QString& key, const QVariant& value) { return QSettings().value(key) == value; }

private slots:
    void init() { open_window(); }
    void cleanup() { close_window(); }

    void panels_fold_and_stay_folded() {
        const int before = window_->viewport().width();
        window_->command("fold logbook")->trigger();
        QVERIFY(window_->folded(Panel::logbook) && !logbook()->isVisible());
        QTRY_VERIFY(window_->viewport().width() > before);
        window_->command("fold deck")->trigger();
        QVERIFY(!window_->deck().isVisible());
        // Kept as soon as it has come to rest: a kill from here on loses nothing.
        QTRY_VERIFY(kept("layout/logbookFolded", true) && kept("layout/deckFolded", true));
        open_again();
        QVERIFY(window_->folded(Panel::logbook) && window_->folded(Panel::deck) && !window_->folded(Panel::bench));
        window_->command("fold logbook")->trigger();
        window_->command("fold deck")->trigger();
        QVERIFY(logbook()->isVisible() && window_->deck().isVisible());
        QTRY_VERIFY(kept("layout/logbookFolded", false));
    }

    void sizes_come_back() {
        window_->resize(1240, 760);
        auto* across = qobject_cast<QSplitter*>(logbook()->parentWidget());
        QVERIFY(across);
        QTest::qWait(50);
        across->setSizes({260, 640, 340});
        emit across->splitterMoved(260, 1); // as a pulled handle does
        const QList<int> sizes = across->sizes();
        QTRY_VERIFY(kept("layout/size", QSize(1240, 760)));
        open_again();
        QCOMPARE(window_->size(), QSize(1240, 760));
        QTest::qWait(50);
        const QList<int> again = qobject_cast<QSplitter*>(logbook()->parentWidget())->sizes();
        for (int i = 0; i < 3; ++i)
            QVERIFY2(std::abs(again[i] - sizes[i]) <= 2, qPrintable(QString("%1 %2").arg(again[i]).arg(sizes[i])));
    }

    void the_picture_alone_leaves_a_thin_tape_and_the_window_as_it_was() {
        wait_for_rest();
        window_->command("fold logbook")->trigger();
        QTest::qWait(350);
        const QSize before = window_->viewport().size();
        window_->command("picture alone")->trigger();
        QVERIFY(window_->picture_alone());
        QTRY_VERIFY(window_->isFullScreen());
        QVERIFY(!window_->target_bar().isVisible() && !window_->statusBar()->isVisible());
        QTRY_COMPARE(window_->deck().height(), PassTape::bandHeight);
        QTRY_VERIFY(window_->viewport().height() > before.height());
        QTRY_VERIFY_WITH_TIMEOUT(!window_->deck().tape().segment("opaque").isEmpty(), 30000);
        const QRectF opaque = window_->deck().tape().segment("opaque");
        QVERIFY(opaque.height() < PassTape::bandHeight && opaque.top() >= 0);
        window_->deck().tape().grab();
        window_->command("picture alone")->trigger();
        QVERIFY(!window_->picture_alone() && window_->statusBar()->isVisible());
        QVERIFY(window_->folded(Panel::logbook) && !window_->folded(Panel::bench)); // as before
        QTRY_VERIFY(window_->deck().height() > 120);
        QTRY_VERIFY(std::abs(window_->viewport().width() - before.width()) < 40);
    }

    void folding_ends_the_picture_alone() {
        window_->show_picture_alone(true);
        window_->command("fold bench")->trigger();
        QVERIFY(!window_->picture_alone());
        window_->set_station("Path"); // works with its bench away
        QVERIFY(!window_->deck().band());
    }
};

MIROLUX_TEST(layout_test)
#include "layout_test.moc"

#include "app/choice_row.h"
#include "app/figures/ambient_figure.h"
#include "app/figures/figure_pages.h"
#include "app/figures/furnace_figure.h"
#include "app/figures/occlusion_figure.h"
#include "app/figures/subsurface_figure.h"
#include "core/ambient/ambient_light.h"
#include "core/base/text.h"
#include "window_fixture.h"

using namespace mirolux;
using namespace mirolux::app;
using namespace mirolux::test;

/// The figures of the Ambient station: light from all around, occlusion, the furnace, and what lies beneath surfaces.
class ambient_figures_test : public QObject, WindowFixture {
    Q_OBJECT

private slots:
    void init() {
        open_window();
        wait_for_rest();
    }
    void cleanup() { close_window(); }

    void the_ball_says_what_arrives_from_each_side() {
        auto* f = figure<AmbientFigure>("Ambient");
        QVERIFY(f && f->isVisible());
        const auto n = f->normal_at({74, 75}); // the middle faces the eye
        QVERIFY(n.has_value());
        const Camera& c = window_->document().project().view.camera;
        QVERIFY(glm::length(*n + glm::normalize(glm::dvec3(c.aim - c.eye))) < 0.02);
        QVERIFY(!f->normal_at({0, 0}).has_value());
        const auto up = f->normal_at({74, 8});
        QVERIFY(up && up->y > 0.85);
        const glm::dvec3 l = ambient_radiance(ambient_light(window_->document().project().setup), *up);
        QVERIFY2(f->words_at({74, 8}).contains(QString::fromStdString(number_text(l.x, 3))),
                 qPrintable(f->words_at({74, 8})));
    }

    /// The sky's ambient light is summed aside; then the ball says what it gives.
    void the_ball_wears_the_skys_light() {
        auto* f = figure<AmbientFigure>("Ambient");
        Document& d = window_->document();
        for (const char* key : {"sky.kind", "ambient.kind"})
            QVERIFY(d.set(key, std::string(key[0] == 's' ? "atmosphere" : "environment")).has_value());
        QTRY_VERIFY_WITH_TIMEOUT(!f->waiting(), 20000);
        const auto up = f->normal_at({74, 8});
        const Project& p = d.project();
        const glm::dvec3 l = ambient_radiance(ambient_light(d.scene(), p.setup, p.view), *up);
        QVERIFY2(l.z > 1000 && f->words_at({74, 8}).contains(QString::fromStdString(number_text(l.x, 3))),
                 qPrintable(f->words_at({74, 8})));
        QVERIFY(d.set("ambient.kind", std::string("gradient")).has_value());
    }

    /// Switched on, occlusion is looked at: the floor keeps more farther from the wall, less with strength.
    void occlusion_shows_what_it_takes_before_a_wall() {
        auto* pages = figure<AmbientPages>("Ambient");
        auto* f = window_->findChild<OcclusionFigure*>();
        Document& d = window_->document();
        QVERIFY(pages && f && pages->page() == AmbientPages::light && !f->isVisible());
        QVERIFY(f->words_at({100, 60}).isEmpty());
        QVERIFY(d.set("occlusion.kind", std::string("horizon")).has_value());
        QVERIFY(pages->page() == AmbientPages::occlusion && f->isVisible());
        const auto keeps = [&](double x) {
            const QString words = f->words_at({x, 60});
            return words.section("keeps ", 1).section(' ', 0, 0).toDouble();
        };
        QVERIFY2(keeps(22) > 0.2 && keeps(22) < keeps(80) && keeps(80) < keeps(240) && keeps(240) > 0.95,
                 qPrintable(f->words_at({22, 60})));
        const double before = keeps(60);
        QVERIFY(d.set("occlusion.power", 3.0).has_value());
        QVERIFY(keeps(60) < before);
        QTest::keyClick(f, Qt::Key_Right);
        d.undo();
        QVERIFY(std::abs(keeps(60) - before) < 1e-9);
        d.undo();
        QVERIFY(pages->page() == AmbientPages::light);
    }

    /// The furnace row follows the model: GGX's rough metal loses, compensated it does not, Lambert has one ball.
    void the_furnace_row_tells_what_a_model_loses() {
        auto* pages = figure<AmbientPages>("Ambient");
        Document& d = window_->document();
        auto* choice = pages->findChild<ChoiceRow*>("figure page");
        QTest::mouseClick(choice, Qt::LeftButton, {}, choice->cell(2).center());
        auto* f = window_->findChild<FurnaceFigure*>();
        QVERIFY(f->isVisible() && f->rows().size() == 2);
        QVERIFY(f->rows()[1].back().mean() < 0.9 && f->rows()[1].front().mean() > 0.97);
        QVERIFY2(f->words_at(f->ball(1, 5).center()).startsWith("Roughness 1:"),
                 qPrintable(f->words_at(f->ball(1, 5).center())));
        QVERIFY(d.set("ambient.kind", std::string("environment")).has_value());
        QVERIFY(std::abs(f->rows()[1].back().mean() - 1) < 0.001);
        QVERIFY(d.set("shading.model", std::string("lambert")).has_value());
        QVERIFY(f->rows().size() == 1 && f->rows()[0].size() == 1 && std::abs(f->rows()[0][0].mean() - 1) < 0.001);
        d.undo();
        d.undo();
        pages->show_page(AmbientPages::light);
    }

    /// What lies beneath: the demo's wax on balls of four sizes. A small one is lit where a great one is dark, the
    /// reach goes with the setting, and a setup that spreads light turns the page.
    void light_beneath_surfaces_is_shown_on_balls() {
        auto* pages = figure<AmbientPages>("Ambient");
        Document& d = window_->document();
        auto* f = window_->findChild<SubsurfaceFigure*>();
        QVERIFY(!f->isVisible());
        QVERIFY(f->material() && f->material()->name == "figurehead wax");
        const QPointF past = f->ball(0).center() + QPointF(12, 0);
        QVERIFY2(f->words_at(past).endsWith("0  0  0"), qPrintable(f->words_at(past)));
        QVERIFY(d.set("subsurface.kind", std::string("blur")).has_value());
        QVERIFY(pages->page() == AmbientPages::beneath && f->isVisible());
        const auto strongest = [&](int ball) {
            return f->words_at(f->ball(ball).center() + QPointF(12, 0)).section("  ", 0, 0).section(' ', -1).toDouble();
        };
        QVERIFY2(strongest(0) > 0.1 && strongest(3) < 0.01, qPrintable(f->words_at(past)));
        const QString thick = f->words_at(f->plot().center());
        QVERIFY2(thick.startsWith("18 mm thick"), qPrintable(thick));
        QVERIFY(d.set("subsurface.distance", 0.5).has_value());
        QVERIFY(f->words_at(f->plot().center()).startsWith("9 mm thick"));
        d.undo();
        d.undo();
        QVERIFY(pages->page() == AmbientPages::light);
    }

    /// Mirrored light is gathered over several pictures, and the status says how far it is.
    void gathering_is_told_until_it_is_done() {
        Document& d = window_->document();
        QSignalSpy told(&window_->bridge(), &RenderBridge::gathering);
        QVERIFY(d.set("environment.samples", 256).has_value());
        QVERIFY(d.set("ambient.kind", std::string("environment")).has_value());
        QTRY_VERIFY_WITH_TIMEOUT(!told.empty(), 30000);
        QVERIFY2(window_->status_text().contains("gathering mirrored light"), qPrintable(window_->status_text()));
        QTRY_VERIFY_WITH_TIMEOUT(told.back().at(1).toInt() == 0, 60000);
        QVERIFY(told.size() > 2 && told.front().at(0).toInt() < told.at(told.size() - 2).at(0).toInt());
        QVERIFY(!window_->status_text().contains("gathering"));
        d.undo();
        d.undo();
    }

    /// Of a picture: where its strip's points lie, what they give, and what metal mirrors of them; it follows the turn.
    void the_surroundings_are_shown_and_read() {
        auto* f = figure<AmbientFigure>("Ambient");
        Document& d = window_->document();
        QVERIFY(d.set("environment.file", std::string("lamp-room.hdr")).has_value());
        QVERIFY(d.set("environment.source", std::string("file")).has_value());
        QVERIFY(d.set("ambient.kind", std::string("environment")).has_value());
        QTRY_VERIFY_WITH_TIMEOUT(f->sizeHint().height() > 300 && !f->waiting() && !f->words_at({140, 180}).isEmpty(),
                                 20000);
        const auto ahead = f->direction_at({140, 196});
        QVERIFY(ahead && glm::length(*ahead - glm::dvec3(0, 0, -1)) < 0.05);
        const auto left = f->direction_at({72, 196});
        QVERIFY(left && left->x < -0.99);
        const QString before = f->words_at({72, 196});
        QVERIFY2(before.startsWith("from"), qPrintable(before));
        QVERIFY2(f->words_at({108, 274}).contains("roughness 0.25"), qPrintable(f->words_at({108, 274})));
        QTest::mouseMove(f, {32, 274});
        QTest::keyClick(f, Qt::Key_Right);
        // Turned by half: what was behind is ahead.
        QVERIFY(d.set("environment.turn", 180.0).has_value());
        QTRY_VERIFY_WITH_TIMEOUT(f->words_at({72, 196}) != before, 20000);
        const glm::dvec3 light =
            ambient_radiance(ambient_light(d.scene(), d.project().setup, d.project().view), *f->normal_at({74, 74}));
        QTRY_VERIFY_WITH_TIMEOUT(f->words_at({74, 74}).contains(QString::fromStdString(number_text(light.x, 3))),
                                 20000);
        // A file that is not there is said, and the window goes on.
        QVERIFY(d.set("environment.file", std::string("gone.hdr")).has_value());
        QTRY_VERIFY_WITH_TIMEOUT(window_->bridge().resting(), 30000);
        QVERIFY(d.set("ambient.kind", std::string("gradient")).has_value());
    }
};

MIROLUX_TEST(ambient_figures_test)
#include "ambient_figures_test.moc"

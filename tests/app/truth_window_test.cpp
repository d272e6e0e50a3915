#include "app/choice_row.h"
#include "app/layer_strip.h"
#include "app/number_field.h"
#include "app/truth_bar.h"
#include "app/truth_engine.h"
#include "core/finish/histogram.h"
#include "core/light/tone.h"
#include "window_fixture.h"
#include <QCryptographicHash>
#include <QDir>
#include <QPushButton>

using namespace mirolux;
using namespace mirolux::app;
using namespace mirolux::test;

/// Truth beside the frame in the window; what is kept lies in a folder of the test's own.
class truth_window_test : public QObject, WindowFixture {
    Q_OBJECT
    QTemporaryDir cache_;

    bool refined(std::uint32_t samples) {
        return QTest::qWaitFor(
            [&] {
                const auto& s = window_->truth_state();
                return s && s->samples >= samples && s->distance;
            },
            90000);
    }
    bool refined_any(std::uint32_t samples) {
        return QTest::qWaitFor(
            [&] {
                const auto& s = window_->truth_state();
                return s && s->samples >= samples;
            },
            60000);
    }
    bool choose_now(ChoiceRow* row, const char* word) {
        const auto all = truth::all_layers();
        const auto i = int(std::find(all.begin(), all.end(), *truth::layer_of(word)) - all.begin());
        QTest::mouseClick(row, Qt::LeftButton, {}, row->cell(i).center());
        return row->current() == i;
    }
    QStringList kept() const {
        return QDir(cache_.filePath("mirolux/truth")).entryList({"*.truth", "*.damaged"}, QDir::Files);
    }

private slots:
    void initTestCase() {
        qputenv("XDG_CACHE_HOME", cache_.path().toUtf8());
        use_theme(*qApp, true);
    }
    void init() {
        open_window();
        QApplication::setActiveWindow(window_.get()); // keys are commands of the active window
        QVERIFY(window_->document().set("path.kind", std::string("clustered-deferred")).has_value());
    }
    void cleanup() { close_window(); }

    /// It comes by a key, refines by itself, tells its number, and goes again.
    void truth_stands_beside_the_frame_with_a_number() {
        wait_for_rest();
        const QImage alone = window_->viewport().grab().toImage();
        QTest::keyClick(window_.get(), Qt::Key_U);
        QVERIFY(window_->truth_shown());
        QVERIFY(refined(4));
        const auto first = window_->truth_state();
        QCOMPARE(first->values.width, 320);
        QVERIFY(first->maps && !first->maps->absolute.isNull());
        QVERIFY(first->distance->mean > 0.02 && first->distance->mean < 2);
        QVERIFY(std::abs(first->distance->bias) < 0.3); // textures and all
        QVERIFY(refined(first->samples + 1));           // goes on
        QVERIFY(window_->truth_state()->error < first->error);
        const QImage both = window_->viewport().grab().toImage();
        QVERIFY(both != alone);
        // All ways of looking at two pictures are there.
        QSet<QString> pictures;
        for (const char* view : {"absolute difference", "relative difference", "seen difference", "wipe"}) {
            QVERIFY2(window_->command(view)->isEnabled(), view);
            window_->command(view)->trigger();
            const QImage seen = window_->viewport().grab().toImage().convertToFormat(QImage::Format_RGB32);
            pictures << QCryptographicHash::hash({reinterpret_cast<const char*>(seen.constBits()), seen.sizeInBytes()},
                                                 QCryptographicHash::Md5)
                            .toHex();
        }
        QCOMPARE(pictures.size(), 4); // each another one
        QTest::keyClick(window_.get(), Qt::Key_U);
        QVERIFY(!window_->truth_shown() && !window_->truth_state());
        QTest::qWait(400);
        QVERIFY(!window_->truth_state()); // nothing comes late
    }

    /// The same question again is there at once: it was kept. Another light is another question.
    void coming_back_is_instant_and_a_change_asks_anew() {
        wait_for_rest();
        window_->show_truth(true);
        QVERIFY(refined(16));
        const std::uint32_t had = window_->truth_state()->samples;
        Document& d = window_->document();
        d.edit_light("brighter", d.project().lights[2].id, [](Light& l) { l.intensity *= 50; });
        QVERIFY(!window_->truth_state());
        QVERIFY(refined(1));
        QTRY_VERIFY(!kept().isEmpty());
        d.undo();
        QVERIFY(!window_->truth_state());
        QSignalSpy told(window_.get(), &MainWindow::truth_refined);
        QVERIFY(told.wait(60000));
        QVERIFY2(window_->truth_state()->samples >= had,
                 qPrintable(QString("%1 of %2").arg(window_->truth_state()->samples).arg(had)));
    }

    /// It stands still while one drags and while the device measures, and is of no measured time.
    void it_yields_to_hands_and_to_measuring() {
        wait_for_rest();
        window_->show_truth(true);
        QVERIFY(refined(1));
        window_->document().set_interactive(true);
        Camera c = window_->document().project().view.camera;
        c.eye.y += 0.5f;
        window_->document().move_camera(c);
        QVERIFY(window_->truth_engine()->paused() && !window_->truth_state());
        window_->document().set_interactive(false);
        QVERIFY(refined(1));
        window_->log_state(5);
        QTRY_VERIFY(window_->bridge().measuring());
        QVERIFY(window_->truth_engine()->paused());
        const auto at = window_->truth_state();
        QTRY_VERIFY_WITH_TIMEOUT(!window_->bridge().measuring(), 120000);
        QTRY_VERIFY_WITH_TIMEOUT(!window_->truth_engine()->paused(), 60000);
        QVERIFY(refined((at ? at->samples : 0) + 1));
    }

    void layers_without_a_truth_say_so() {
        wait_for_rest();
        window_->show_truth(true);
        QVERIFY(refined(1));
        window_->findChild<LayerStrip*>()->set_held("normal");
        QTRY_VERIFY(!window_->truth_state());
        QTest::qWait(600);
        QVERIFY(!window_->truth_state());
        window_->findChild<LayerStrip*>()->set_held("final");
        QVERIFY(refined(1));
    }

    /// Layers that the frame has are held beside their truth, with a number; the rest stand for themselves.
    void layers_of_truth_are_chosen() {
        wait_for_rest();
        window_->show_truth(true);
        auto* bar = window_->findChild<TruthBar*>();
        auto* row = window_->findChild<ChoiceRow*>("truth layer");
        QVERIFY(bar->isVisible());
        const auto choose = [&](const char* word) {
            const truth::Layer layer = *truth::layer_of(word);
            return choose_now(row, word) && QTest::qWaitFor(
                                                [&] {
                                                    const auto& s = window_->truth_state();
                                                    return s && s->layer == layer && s->samples >= 2 &&
                                                           (s->distance || window_->bridge().shown_layer() == "final");
                                                },
                                                60000);
        };
        for (const char* word : {"direct", "specular", "indirect"}) {
            QVERIFY2(choose(word), word);
            QCOMPARE(window_->bridge().shown_layer().toStdString(), truth::frame_layer(*truth::layer_of(word)));
        }
        for (const char* word : {"occlusion", "mirror", "indirect-diffuse"}) { // the frame lays none of them here
            QVERIFY2(choose(word), word);
            QVERIFY(!window_->truth_state()->distance && !window_->truth_state()->maps);
            QCOMPARE(window_->bridge().shown_layer(), QString("final"));
        }
        // A radius is another question, and only there where it means something.
        auto* radius = window_->findChild<NumberField*>("truth radius");
        QVERIFY(!radius->isVisible());
        QVERIFY(choose("occlusion"));
        QVERIFY(radius->isVisible());
        const auto whole = [&] {
            double sum = 0;
            for (const float v : window_->truth_state()->values.data)
                sum += v;
            return sum;
        };
        QVERIFY(refined_any(16));
        const double open = whole();
        radius->put(20);
        QVERIFY(!window_->truth_state());
        QVERIFY(refined_any(16));
        QVERIFY(whole() < open); // more stands in the way
        // A frame that lays occlusion is held against it, within the frame's own radius.
        window_->document().edit("occlusion", [](Project& p) {
            p.setup.set("ambient.kind", std::string("constant"));
            p.setup.set("occlusion.kind", std::string("horizon"));
        });
        QVERIFY(choose("direct"));
        QVERIFY(choose("occlusion"));
        QCOMPARE(window_->bridge().shown_layer(), QString("screenOcclusion"));
        QVERIFY(window_->truth_state()->distance && !radius->isVisible());
        window_->document().undo();
        QVERIFY(choose("occlusion"));
        QVERIFY(!window_->truth_state()->distance && radius->isVisible());
        // Visibility is of the light that is selected.
        QVERIFY(choose_now(row, "visibility") && !window_->truth_state());
        QTRY_VERIFY_WITH_TIMEOUT(bar->words().contains("select a light"), 5000);
        const Light& light = window_->document().project().lights[1];
        window_->select_light(light.id);
        QVERIFY(refined_any(1));
        QTRY_VERIFY(bar->words().contains(QString::fromStdString(light.name)));
        for (const float v : window_->truth_state()->values.data)
            QVERIFY(v >= 0 && v <= 1.0001f);
        // What stands in the way of lamps no more lets them through: the same rays, placed anew.
        QVERIFY(refined_any(1));
        const double shaded = whole();
        window_->document().edit("shadows", [&](Project& p) {
            std::vector<ObjectEdit> edits;
            const SceneAsset& asset = *window_->document().asset();
            for (std::size_t o = 0; o < asset.objects.size(); ++o) {
                edits.push_back(edit_of(p.objects, asset, int(o)));
                edits.back().casts = Casting::no;
            }
            take_edits(p.objects, edits);
        });
        QVERIFY(refined_any(1));
        QVERIFY(whole() > shaded);
        window_->document().undo();
        // A frame with shadow maps has its shadow, held where the light falls.
        window_->document().edit("maps", [](Project& p) { p.setup.set("shadow.maps", true); });
        for (const Light& l : window_->document().project().lights)
            if (l.name == "ferry ramp flood 01") window_->select_light(l.id);
        QVERIFY(choose("direct"));
        QVERIFY(choose("visibility"));
        QCOMPARE(window_->bridge().shown_layer(), QString("lightshadow"));
        QVERIFY(window_->truth_state()->distance && window_->truth_state()->distance->mean < 0.5);
        window_->document().undo();
        QVERIFY(choose("visibility"));
        // The picture alone has no bar over it.
        window_->show_picture_alone(true);
        QVERIFY(!bar->isVisible());
        window_->show_picture_alone(false);
        QVERIFY(bar->isVisible());
        // Holding a layer of the frame follows it.
        window_->findChild<LayerStrip*>()->set_held("diffuse");
        QTRY_VERIFY_WITH_TIMEOUT(window_->truth_state() && window_->truth_state()->layer == truth::Layer::diffuse,
                                 60000);
        for (const bool dark : {false, true}) {
            use_theme(*qApp, dark);
            QVERIFY(!bar->grab().toImage().isNull());
        }
    }

    /// Stopped it stands still, is kept, and goes on from there.
    void it_is_stopped_by_hand() {
        wait_for_rest();
        window_->show_truth(true);
        QVERIFY(refined(2));
        auto* stop = window_->findChild<QPushButton*>("stop truth");
        QTest::mouseClick(stop, Qt::LeftButton);
        QVERIFY(window_->truth_engine()->paused());
        QTest::qWait(1500);
        const std::uint32_t at = window_->truth_state()->samples;
        QTest::qWait(1500);
        QCOMPARE(window_->truth_state()->samples, at);
        QTRY_VERIFY(!kept().isEmpty());
        QTest::keyClick(window_.get(), Qt::Key_U, Qt::ShiftModifier);
        QVERIFY(!window_->truth_engine()->paused());
        QVERIFY(refined(at + 1));
    }

    /// A kept picture that is damaged is named and set aside; the window goes on.
    void a_damaged_one_is_named() {
        wait_for_rest();
        Camera c = window_->document().project().view.camera;
        c.eye.x += 1.25f;
        window_->document().move_camera(c);
        emit window_->document().settled();
        const QStringList before = kept();
        window_->show_truth(true);
        QVERIFY(refined(8));
        window_->show_truth(false);
        QTRY_VERIFY_WITH_TIMEOUT(window_->truth_engine()->at_rest(), 60000); // it is written once more as it ends
        QString mine;
        QTRY_VERIFY_WITH_TIMEOUT(([&] {
                                     for (const QString& name : kept())
                                         if (!before.contains(name)) mine = name;
                                     return !mine.isEmpty();
                                 })(),
                                 20000);
        QFile file(cache_.filePath("mirolux/truth/" + mine));
        QVERIFY(file.open(QIODevice::ReadWrite) && file.seek(file.size() / 3) && file.write("damage") == 6);
        file.close();
        window_->show_truth(true);
        QTRY_VERIFY_WITH_TIMEOUT(window_->status_text().contains("damaged"), 60000);
        QVERIFY(refined(1));
        QVERIFY(kept().contains(mine + ".damaged"));
    }

    /// What is shown of truth goes through the finish that the frame went through.
    void pictures_are_shown_as_the_finish_shows_them() {
        for (const char* curve : {"none", "clamp", "reinhard", "filmic"}) {
            Setup setup;
            QVERIFY(setup.set_text("tone.curve", curve).has_value() &&
                    setup.set_text("exposure.ev100", "1.5").has_value());
            FloatImage image{200, 1, 3, {}};
            for (int i = 0; i < 600; ++i)
                image.data.push_back(static_cast<float>(std::exp2(-8 + i * 0.02)));
            const ByteImage shown = displayed_picture(image, setup);
            for (std::size_t i = 0; i < 200; ++i)
                for (std::size_t k = 0; k < 3; ++k) {
                    const double exact = 255 * displayed(image.data[3 * i + k] * tone::exposure_scale(1.5), setup);
                    QVERIFY(std::abs(shown.rgba[4 * i + k] - exact) < 1.0);
                }
        }
    }
};

MIROLUX_TEST(truth_window_test)
#include "truth_window_test.moc"

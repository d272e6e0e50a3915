#include "core/motion/scene_at.h"
#include "core/scene/gltf_export.h"
#include "session_fixture.h"
#include <QTemporaryDir>

using namespace mirolux;
using namespace mirolux::test;

/// The demo, written as glTF and read again, is the same picture.
class export_picture_test : public QObject {
    Q_OBJECT
private slots:
    void what_comes_back_looks_the_same() {
        auto open = open_project(MIROLUX_DEMO);
        QVERIFY(open.has_value());
        QTemporaryDir dir;
        const auto file = dir.filePath("out.glb").toStdString();
        QVERIFY(export_gltf(open->project, open->asset, file).has_value());
        const auto again = import_gltf(file);
        QVERIFY(again.has_value());
        const Setup setup = setup_with({{"path.kind", "deferred"}});
        for (const double t : {0.0, 4.0}) {
            View view = open->project.view;
            view.width = 256;
            view.height = 144;
            view.seconds = t;
            const FloatImage a = hdr(Scene{open->asset, open->asset->lights, {}, open->project.sky}, setup, view),
                             b = hdr(Scene{*again, (*again)->lights, {}, open->project.sky}, setup, view);
            double off = 0, sum = 0;
            std::size_t odd = 0;
            for (std::size_t i = 0; i < a.data.size(); ++i) {
                const double d = std::abs(double(a.data[i]) - b.data[i]);
                off += d;
                sum += std::abs(double(a.data[i]));
                odd += d > 0.01 * std::max(0.05, std::abs(double(a.data[i])));
            }
            qInfo("%g s: mean difference %.2g of the mean, %zu of %zu values over 1 %%", t, off / sum, odd,
                  a.data.size());
            QVERIFY(off / sum < 1e-3);
            QVERIFY(odd < a.data.size() / 500); // edges of surfaces that meet
        }
    }
};

MIROLUX_TEST(export_picture_test)
#include "export_picture_test.moc"

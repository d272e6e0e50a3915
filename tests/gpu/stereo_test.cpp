#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

static ByteImage picture(const Scene& scene, const Setup& setup, const View& view) {
    RenderOptions o;
    o.fencedSamples = 0;
    o.bothEyes = true;
    auto record = session().render(scene, setup, view, o);
    if (!record) qFatal("%s", to_text(record.error()).c_str());
    return std::move(record->picture);
}

/// The picture of each eye by itself, rendered as two views without stereo and laid side by side.
static ByteImage side_by_side(const Scene& scene, const Setup& setup, const View& view) {
    ByteImage out{2 * view.width, view.height, std::vector<std::uint8_t>(std::size_t(8) * view.width * view.height)};
    const auto eyes = eye_views(view);
    for (std::size_t e = 0; e < 2; ++e) {
        const ByteImage one = picture(scene, setup, eyes[e]);
        for (int y = 0; y < view.height; ++y)
            std::copy_n(one.rgba.begin() + std::ptrdiff_t(4) * y * view.width, 4 * view.width,
                        out.rgba.begin() +
                            std::ptrdiff_t(4) * (std::ptrdiff_t(y) * out.width + std::ptrdiff_t(e) * view.width));
    }
    return out;
}

/// Share of pixels in which a channel differs by more than `steps` of 255.
static double differing(const ByteImage& a, const ByteImage& b, int steps) {
    std::size_t pixels = 0;
    for (std::size_t i = 0; i < a.rgba.size(); i += 4) {
        int most = 0;
        for (std::size_t c = 0; c < 3; ++c)
            most = std::max(most, std::abs(int(a.rgba[i + c]) - int(b.rgba[i + c])));
        pixels += most > steps;
    }
    return double(pixels) / (double(a.width) * a.height);
}

static Setup path(const char* kind, std::vector<std::pair<std::string, std::string>> more = {}) {
    more.insert(more.begin(), {{"path.kind", kind}, {"path.maxLights", "64"}, {"culling.listCapacity", "1024"}});
    return setup_with(more);
}

class stereo_test : public QObject {
    Q_OBJECT
private slots:
    void both_ways_of_drawing_two_eyes_equal_two_pictures_on_every_path_data() {
        QTest::addColumn<QString>("kind");
        QTest::addColumn<QString>("option");
        for (const char* kind : {"additive", "deferred", "volumes", "tiled-deferred", "tiled-forward",
                                 "clustered-deferred", "clustered-forward"})
            QTest::addRow("%s", kind) << kind << "";
        QTest::addRow("pre-pass") << "deferred"
                                  << "path.depthPrepass";
        QTest::addRow("peeled") << "tiled-forward"
                                << "transparency.kind";
    }
    void both_ways_of_drawing_two_eyes_equal_two_pictures_on_every_path() {
        QFETCH(QString, kind);
        QFETCH(QString, option);
        Demo d = demo(304, 171);
        d.view.eyeDistance = 0.3f; // wide, so that a mix-up of the eyes cannot hide
        std::vector<std::pair<std::string, std::string>> more;
        if (!option.isEmpty()) more.emplace_back(option.toStdString(), option == "path.depthPrepass" ? "on" : "peeled");
        const Setup setup = path(kind.toUtf8().constData(), more);
        d.view.stereo = Stereo::twoPasses;
        const ByteImage apart = side_by_side(d.scene, setup, d.view), two = picture(d.scene, setup, d.view);
        d.view.stereo = Stereo::onePass;
        const ByteImage one = picture(d.scene, setup, d.view);
        QCOMPARE(two.width, 608);
        // Lights and panes are ordered from between the eyes: a few pixels of crossing panes may differ from a picture
        // of the eye alone.
        QVERIFY2(differing(apart, two, 1) < 0.002, qPrintable(QString::number(differing(apart, two, 1))));
        QVERIFY2(differing(two, one, 0) < 1e-4, qPrintable(QString::number(differing(two, one, 0))));
        // The eyes do see different pictures.
        ByteImage left{304, 171, {}}, right{304, 171, {}};
        for (int y = 0; y < 171; ++y) {
            const auto row = one.rgba.begin() + std::ptrdiff_t(4) * y * 608;
            left.rgba.insert(left.rgba.end(), row, row + 4 * 304);
            right.rgba.insert(right.rgba.end(), row + 4 * 304, row + 8 * 304);
        }
        QVERIFY(differing(left, right, 8) > 0.02);
    }

    void the_enclosing_camera_loses_nothing_that_an_eye_sees() {
        View view;
        view.camera = {"", {1, 2, 3}, {4, 1, -6}, 1.1f, 0.05f};
        view.width = 400, view.height = 300;
        view.stereo = Stereo::onePass;
        view.eyeDistance = 0.4f;
        const auto whole = frustum_planes(enclosing_camera(view), 400.0 / 300);
        std::mt19937 random(7);
        std::uniform_real_distribution<float> unit(-1, 1);
        int seen = 0;
        for (const View& eye : eye_views(view)) {
            const auto own = frustum_planes(eye.camera, 400.0 / 300);
            for (int i = 0; i < 20000; ++i) {
                const glm::vec3 p = eye.camera.eye + 8.0f * glm::vec3(unit(random), unit(random), unit(random));
                if (!intersects(own, p, 0.0f)) continue;
                ++seen;
                QVERIFY(intersects(whole, p, 1e-4f));
            }
        }
        QVERIFY(seen > 1000);
    }

    void work_counts_both_eyes_and_layers_halve_the_draws() {
        Demo d = demo(160, 90);
        const Setup setup = path("tiled-forward");
        RenderOptions o;
        o.picture = false;
        o.count = true;
        auto counted = [&](Stereo stereo) {
            d.view.stereo = stereo;
            auto r = session().render(d.scene, setup, d.view, o);
            if (!r) qFatal("%s", to_text(r.error()).c_str());
            return *r;
        };
        const FrameRecord two = counted(Stereo::twoPasses), one = counted(Stereo::onePass);
        std::uint64_t fragments = 0;
        for (const View& eye : eye_views(d.view)) {
            auto r = session().render(d.scene, setup, eye, o);
            QVERIFY(r);
            for (const PassRecord& p : r->passes)
                fragments += p.work.at("fragments");
        }
        std::uint64_t ofTwo = 0, ofOne = 0;
        for (std::size_t i = 0; i < two.passes.size(); ++i) {
            ofTwo += two.passes[i].work.at("fragments");
            ofOne += one.passes[i].work.at("fragments");
            QCOMPARE(two.passes[i].work.at("triangles"), one.passes[i].work.at("triangles"));
            if (two.passes[i].name == "opaque")
                QCOMPARE(two.passes[i].work.at("draws"), 2 * one.passes[i].work.at("draws"));
            QVERIFY(!two.passes[i].ms.empty() && two.passes[i].ms[0] > 0);
        }
        QCOMPARE(ofTwo, ofOne);
        QCOMPARE(ofTwo, fragments);
    }
};

#include "stereo_test.moc"
MIROLUX_TEST(stereo_test)

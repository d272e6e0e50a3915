#include "core/finish/histogram.h"
#include "core/finish/working_space.h"
#include "core/light/tone.h"
#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

namespace {

using Values = std::vector<std::pair<std::string, std::string>>;

Setup in_space(const char* space, const Values& more = {}) {
    Values all = {{"output.space", space},      {"tone.curve", "clamp"},          {"output.dither", "off"},
                  {"shading.model", "lambert"}, {"path.targetFormat", "rgba32f"}, {"ambient.kind", "none"}};
    all.insert(all.end(), more.begin(), more.end());
    return setup_with(all);
}

ByteImage shown(const Scene& scene, const Setup& setup, const View& view) {
    RenderOptions o;
    o.fencedSamples = 0;
    const auto r = session().render(scene, setup, view, o);
    if (!r) qFatal("%s", to_text(r.error()).c_str());
    return r->picture;
}

/// A wall of half-grey under `suns` equal suns from the front, each of `lux`.
struct Wall {
    Scene scene;
    View view = view_from({0, 0, 5}, {0, 0, 0}, 9, 9);
};
Wall wall(int suns, float lux, const Material& material) {
    SceneAsset a;
    a.materials = {material};
    add_quad(a, 0, {-9, -9, 0}, {18, 0, 0}, {0, 18, 0});
    Wall w;
    w.scene.asset = finished(std::move(a));
    for (int i = 0; i < suns; ++i) {
        Light l;
        l.id = i;
        l.type = LightType::directional;
        l.direction = {0, 0, -1};
        l.intensity = lux;
        w.scene.lights.push_back(l);
    }
    return w;
}
Wall wall(int suns, float lux) {
    return wall(suns, lux, plain_material(glm::vec3(0.2f, 0.4f, 0.6f), 0, 1));
}

} // namespace

class working_space_test : public QObject {
    Q_OBJECT

private slots:
    /// In full light a colour is shown as it should be in either space; half the light, or two lamps, are not.
    void sums_of_codes_go_wrong_where_sums_are_made() {
        const double full = glm::pi<double>() / tone::exposure_scale(0); // irradiance that shows white as white
        const auto middle = [&](int suns, double part, const char* space) {
            const Wall w = wall(suns, float(full * part));
            const ByteImage p = shown(w.scene, in_space(space), w.view);
            return int(p.rgba[(4 * 9 + 4) * 4 + 1]); // green
        };
        const double green = 0.4, code = srgb_encode(green);
        QVERIFY(std::abs(middle(1, 1, "linear") - middle(1, 1, "gamma")) <= 1);
        QVERIFY(std::abs(middle(1, 1, "gamma") - std::lround(255 * code)) <= 1);
        for (const auto& [suns, part] : {std::pair(1, 0.5), {2, 0.25}, {2, 0.5}, {1, 0.1}}) {
            QVERIFY(std::abs(middle(suns, part, "linear") - std::lround(255 * srgb_encode(green * suns * part))) <= 1);
            QVERIFY(std::abs(middle(suns, part, "gamma") - std::lround(255 * code * suns * part)) <= 1);
        }
        QVERIFY(middle(1, 0.1, "gamma") < 0.4 * middle(1, 0.1, "linear")); // the steep fall-off
    }

    void what_glows_and_the_sky_are_shown_alike() {
        Material glow = plain_material(glm::vec3(0.5f), 0, 1), unlit = glow;
        glow.emissive = {0.3f, 0.1f, 0.02f};
        unlit.unlit = true;
        for (const Material& m : {glow, unlit}) {
            const Wall w = wall(0, 0, m);
            for (const char* ev : {"0", "-1"}) {
                const ByteImage right = shown(w.scene, in_space("linear", {{"exposure.ev100", ev}}), w.view),
                                wrong = shown(w.scene, in_space("gamma", {{"exposure.ev100", ev}}), w.view);
                for (std::size_t i = 0; i < right.rgba.size(); ++i)
                    QVERIFY(std::abs(int(right.rgba[i]) - int(wrong.rgba[i])) <= 1);
            }
        }
        Scene sky;
        SceneAsset a;
        add_quad(a, 0, {100, 0, 0}, {1, 0, 0}, {0, 1, 0});
        sky.asset = finished(std::move(a));
        sky.sky = {{0.3f, 0.2f, 0.1f}, {0.05f, 0.1f, 0.3f}};
        const View up = view_from({0, 0, 0}, {0, 1, -1}, 9, 9);
        const ByteImage right = shown(sky, in_space("linear"), up), wrong = shown(sky, in_space("gamma"), up);
        for (std::size_t i = 0; i < right.rgba.size(); ++i)
            QVERIFY(std::abs(int(right.rgba[i]) - int(wrong.rgba[i])) <= 1);
        QVERIFY(right.rgba[0] > 20);
    }

    void all_paths_make_the_same_mistake() {
        const Scene scene = random_scene(4, 6);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 64, 36);
        const auto picture = [&](const char* path) {
            return hdr(scene,
                       in_space("gamma", {{"path.kind", path},
                                          {"path.maxLights", "64"},
                                          {"ambient.kind", "gradient"},
                                          {"shading.model", "ggx"},
                                          {"gbuffer.packing", "full"}}),
                       view);
        };
        const FloatImage first = picture("forward");
        for (const char* path : paths)
            QVERIFY2(largest_relative_difference(first, picture(path), 0.05) < 0.01, path);
        QVERIFY(layers_miss_the_picture(scene, in_space("gamma", {{"path.kind", "deferred"}}), view) < 0.02);
        const PixelAccount a = account_at(scene, in_space("gamma", {{"path.kind", "tiled-forward"}}), view, {30, 24});
        QVERIFY2(a.difference < 0.01, qPrintable(QString::number(a.difference)));
    }

    /// What the window paints beside the frame goes by the same space; truth stays linear.
    void codes_in_core_are_those_of_the_device() {
        QVERIFY(std::abs(displayed(0.4, in_space("gamma")) - 0.4) < 1e-12);
        QVERIFY(std::abs(displayed(0.4, in_space("linear")) - srgb_encode(0.4)) < 1e-12);
        const glm::dvec3 c = coded_radiance({0.6, 0.06, 0}, 1.0 / 1.2);
        QVERIFY(std::abs(c.x - 1.2 * srgb_encode(0.5)) < 1e-12 && std::abs(c.y - 1.2 * srgb_encode(0.05)) < 1e-12);
        QVERIFY(std::abs(c.z) < 1e-12);
        QVERIFY(sums_coded(in_space("gamma")) && !sums_coded(in_space("linear")));
    }
};

MIROLUX_TEST(working_space_test)
#include "working_space_test.moc"

#include "core/ambient/split_sum.h"
#include "core/image/image_io.h"
#include "core/light/falloff.h"
#include "core/plan/camera_motion.h"
#include "core/rays/ray_scene.h"
#include "core/surface/subsurface.h"
#include "shadowed.h"
#include <QTemporaryDir>
#include <numeric>

using namespace mirolux;
using namespace mirolux::test;

namespace {

using Values = std::vector<std::pair<std::string, std::string>>;

Values plus(Values values, const Values& more) {
    values.insert(values.end(), more.begin(), more.end());
    return values;
}

/// Full floats on a path, without ambient light.
Values plain_on(const std::string& path, const Values& more = {}) {
    return plus(
        {{"path.kind", path}, {"path.maxLights", "64"}, {"path.targetFormat", "rgba32f"}, {"gbuffer.packing", "full"}},
        more);
}

Light sun(const glm::vec3& direction, float lux) {
    Light l;
    l.id = 1;
    l.name = "sun";
    l.type = LightType::directional;
    l.direction = glm::normalize(direction);
    l.intensity = lux;
    return l;
}

Material wax(const glm::vec3& distance, float thickness = 0) {
    Material m = plain_material({0.8f, 0.7f, 0.5f}, 0, 0.6f);
    m.optics.scatterDistance = distance;
    m.optics.thickness = thickness;
    return m;
}

/// Of the profile, what lies left of x.
double left_of(double x) {
    double sum = 0;
    for (const ScatterGaussian& g : scatter_profile())
        sum += g.weight * 0.5 * (1 + std::erf(x / std::sqrt(2 * g.variance)));
    return sum;
}

} // namespace

/// Coats, and light beneath surfaces, on the device.
class subsurface_test : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;

private slots:
    /// Coats, dense glass and wax are the same on every path, however light goes beneath.
    void every_path_gives_the_picture_of_forward() {
        double worst = 0;
        for (const Values& kind :
             std::vector<Values>{{{"subsurface.kind", "wrapped"}, {"subsurface.thickness", "texture"}},
                                 {{"subsurface.kind", "blur"}, {"subsurface.thickness", "map"}, {"shadow.maps", "on"}},
                                 {{"subsurface.kind", "blur"}, {"occlusion.kind", "horizon"}}}) {
            Scene scene = random_scene(6, 30);
            give_optics(scene);
            const View view = view_from({3, 3, 12}, {0, 1, 0}, 161, 97);
            const FloatImage wanted = hdr(scene, setup_with(plain_on("forward", kind)), view);
            for (const char* path : paths) {
                const double d =
                    largest_relative_difference(wanted, hdr(scene, setup_with(plain_on(path, kind)), view), 1e-2);
                // Diffuse light apart lies in half floats, and is added to in them.
                const bool half = kind.front().second == "blur";
                QVERIFY2(d < (half ? 2e-2 : 2e-3), qPrintable(QString("%1: %2").arg(path).arg(d)));
                worst = std::max(worst, d);
            }
        }
        qInfo("largest relative difference %.1e", worst);
    }

    void coats_and_refraction_are_the_references() {
        SceneAsset a;
        Material m = plain_material({0.7f, 0.4f, 0.2f}, 0.35f, 0.6f);
        m.optics.f0 = {0.02f, 0.1f, 0.06f};
        m.optics.f90 = 0.7f;
        m.optics.coat = 0.8f;
        m.optics.coatRoughness = 0.15f;
        a.materials.push_back(m);
        add_quad(a, 0, {-10, 0, 10}, {20, 0, 0}, {0, 0, -20});
        Light l;
        l.position = {1, 3, -2};
        l.intensity = 90;
        const Scene scene{finished(std::move(a)), {l}, {}, {}};
        const View view = view_from({0, 4, 7}, {0, 0, 0}, 160, 120);
        int looked = 0;
        for (const char* path : {"forward", "tiled-deferred"}) {
            const FloatImage image = hdr(scene, setup_with(plain_on(path, {{"ambient.kind", "none"}})), view);
            for (int y = 30; y < 120; y += 9)
                for (int x = 3; x < 160; x += 11) {
                    const Ray ray = ray_through(view, x + 0.5, y + 0.5);
                    const glm::dvec3 p = ray.origin + ray.direction * (-ray.origin.y / ray.direction.y);
                    if (ray.direction.y >= -0.05f || std::abs(p.x) > 9.8 || std::abs(p.z) > 9.8) continue;
                    const glm::dvec3 n(0, 1, 0), toLight = glm::normalize(glm::dvec3(l.position) - p),
                                                 toEye = glm::normalize(glm::dvec3(view.camera.eye) - p);
                    const brdf::Lobes lobes =
                        brdf::evaluate(brdf::Model::ggx, {glm::dvec3(0.7f, 0.4f, 0.2f), 0.35f, 0.6f, m.optics}, 20,
                                       true, n, toLight, toEye);
                    const glm::dvec3 wanted = (lobes.diffuse + lobes.specular) *
                                              normal_irradiance(l, p, derived_range(l, 0.05f), RangeWindow::squared) *
                                              glm::dot(n, toLight);
                    for (int c = 0; c < 3; ++c)
                        QVERIFY2(
                            std::abs(image.pixel(x, y)[c] - wanted[c]) <= 4e-3 * wanted[c] + 1e-6,
                            qPrintable(
                                QString("%1,%2: %3 for %4").arg(x).arg(y).arg(image.pixel(x, y)[c]).arg(wanted[c])));
                    ++looked;
                }
        }
        QVERIFY(looked > 100);
    }

    /// White under a radiance of 1 all around sends back what the sums of its lobes say.
    void a_coat_in_the_furnace() {
        const std::string even = folder_.filePath("even.exr").toStdString();
        QVERIFY(write_exr(even, {64, 32, 4, std::vector<float>(64 * 32 * 4, 1.0f)}).has_value());
        for (const char* path : {"forward", "deferred"})
            for (const float coat : {0.3f, 1.0f})
                for (const float r : {0.1f, 0.5f})
                    for (const float angle : {0.0f, 0.8f, 1.3f}) {
                        SceneAsset a;
                        Material m = plain_material(glm::vec3(1), 0, 0.4f);
                        m.optics.coat = coat;
                        m.optics.coatRoughness = r;
                        a.materials.push_back(m);
                        add_quad(a, 0, {-1, -1, 0}, {2, 0, 0}, {0, 2, 0});
                        Scene scene;
                        scene.asset = finished(std::move(a));
                        const View view = view_from({2 * std::sin(angle), 0, 2 * std::cos(angle)}, {0, 0, 0}, 3, 3);
                        const double got = hdr(scene,
                                               setup_with(plain_on(path, {{"ambient.kind", "environment"},
                                                                          {"environment.compensated", "off"},
                                                                          {"environment.source", "file"},
                                                                          {"environment.file", even}})),
                                               view)
                                               .pixel(1, 1)[1],
                                     c = std::cos(double(angle));
                        const brdf::Surface s{glm::dvec3(1), 0, 0.4, m.optics};
                        const AmbientArrives one{glm::dvec3(1), glm::dvec3(1)};
                        const double wanted =
                            coated(ambient_reflected(brdf::Model::ggx, s, false, split_sum(c, 0.4, 4096), one), s, c,
                                   split_sum(c, r, 4096), glm::dvec3(1))
                                .sum()
                                .x;
                        QVERIFY2(std::abs(got - wanted) < 0.012,
                                 qPrintable(QString("%1, coat %2 of %3 at %4: %5 for %6")
                                                .arg(path)
                                                .arg(coat)
                                                .arg(r)
                                                .arg(angle)
                                                .arg(got)
                                                .arg(wanted)));
                    }
    }

    /// An evenly lit wall of wax, white beside black: nothing is lost, and across the seam the light falls as the
    /// profile's line integral does.
    void the_blur_keeps_the_light_and_has_the_profile() {
        SceneAsset a;
        const glm::vec3 distance(0.06f, 0.03f, 0.012f); // metres
        a.materials = {wax(distance), wax(distance)};
        a.materials[1].baseColor = {0, 0, 0, 1};
        add_quad(a, 1, {-2, -2, 0}, {4, 0, 0}, {0, 4, 0});
        add_quad(a, 0, {-0.9f, -0.9f, 0.0005f}, {1.8f, 0, 0}, {0, 1.8f, 0});
        const Scene scene{finished(std::move(a)), {sun({0, 0, -1}, 100)}, {}, {}};
        View view = view_from({0, 0, 3}, {0, 0, 0}, 600, 600);
        view.camera.fovY = static_cast<float>(2 * std::atan(1.5 / 3));
        for (const char* path : {"forward", "tiled-deferred"}) {
            const Values common = plain_on(path, {{"ambient.kind", "none"}, {"shading.model", "lambert"}});
            const FloatImage before = hdr(scene, setup_with(common), view),
                             after =
                                 hdr(scene,
                                     setup_with(plus(common, {{"subsurface.kind", "blur"}, {"subsurface.taps", "25"}})),
                                     view);
            for (int c = 0; c < 3; ++c) {
                double was = 0, is = 0;
                for (std::size_t i = static_cast<std::size_t>(c); i < before.data.size(); i += 4) {
                    was += before.data[i];
                    is += after.data[i];
                }
                qInfo("%s, channel %d: %.4f of the light", path, c, is / was);
                QVERIFY2(std::abs(is / was - 1) < 0.01, qPrintable(QString::number(is / was)));
                double worst = 0;
                for (int x = 300; x < 600; ++x) {
                    const double at = (x + 0.5 - 300) * 3.0 / 600, wanted = left_of((0.9 - at) / double(distance[c]));
                    worst = std::max(worst, std::abs(after.pixel(x, 300)[c] / before.pixel(300, 300)[c] - wanted));
                }
                qInfo("%s, channel %d: across the seam off by %.3f of the light at most", path, c, worst);
                QVERIFY2(worst < 0.035, qPrintable(QString::number(worst)));
            }
        }
    }

    /// A slab lit from behind shows what the closed form lets through, whether the light's map tells how thick it is or
    /// the material.
    void a_slab_lets_through_what_the_closed_form_says() {
        const double d = 0.05;
        double worst = 0;
        for (const double thickness : {0.01, 0.03, 0.06, 0.12}) {
            SceneAsset a;
            a.materials.push_back(wax(glm::vec3(static_cast<float>(d)), static_cast<float>(thickness)));
            const auto t = static_cast<float>(thickness);
            a.digest = static_cast<std::uint64_t>(1e6 * thickness); // maps are kept as long as the file is the same
            add_box(a, 0, {-1, -1, -t}, {2, 2, t});
            Scene scene;
            scene.asset = finished(std::move(a));
            scene.lights = {sun({0, 0, 1}, 1000)}; // from behind, straight through
            const View view = view_from({0, 0, 3}, {0, 0, 0}, 9, 9);
            for (const Values& how : std::vector<Values>{
                     {{"subsurface.thickness", "map"}, {"shadow.maps", "on"}, {"shadow.resolution", "1024"}},
                     {{"subsurface.thickness", "texture"}, {"shadow.maps", "on"}},
                     {{"subsurface.thickness", "texture"}}})
                for (const char* path : {"forward", "clustered-deferred"}) {
                    const FloatImage image =
                        hdr(scene,
                            setup_with(
                                plus(plain_on(path, {{"ambient.kind", "none"}, {"subsurface.kind", "wrapped"}}), how)),
                            view);
                    const double passed = through_slab(thickness, glm::dvec3(d)).x;
                    for (int c = 0; c < 3; ++c) {
                        const double wanted = 1000 * passed * glm::vec3(0.8f, 0.7f, 0.5f)[c] / glm::pi<double>() * 0.96,
                                     got = image.pixel(4, 4)[c];
                        worst = std::max(worst, std::abs(got / wanted - 1));
                        QVERIFY2(std::abs(got / wanted - 1) < 0.1, qPrintable(QString("%1 mm, %2, %3: %4 for %5")
                                                                                  .arg(1000 * thickness)
                                                                                  .arg(how.front().second.c_str())
                                                                                  .arg(path)
                                                                                  .arg(got)
                                                                                  .arg(wanted)));
                    }
                }
        }
        qInfo("off by %.4f of it", worst);
    }

    /// What stands behind the slab keeps the light from it.
    void what_is_shaded_does_not_shine_through() {
        SceneAsset a;
        a.materials = {wax(glm::vec3(0.05f), 0.02f), plain_material(glm::vec3(0.5f), 0, 1)};
        add_box(a, 0, {-1, -1, -0.02f}, {2, 2, 0.02f});
        add_box(a, 1, {-1, -1, -3}, {1, 2, 0.1f}); // before the left half
        Scene scene;
        scene.asset = finished(std::move(a));
        scene.lights = {sun({0, 0, 1}, 1000)};
        const View view = view_from({0, 0, 3}, {0, 0, 0}, 40, 40);
        for (const char* how : {"map", "texture"}) {
            const FloatImage image = hdr(scene,
                                         setup_with(plain_on("forward", {{"ambient.kind", "none"},
                                                                         {"shadow.maps", "on"},
                                                                         {"subsurface.kind", "wrapped"},
                                                                         {"subsurface.thickness", how}})),
                                         view);
            QVERIFY2(image.pixel(30, 20)[1] > 50 && image.pixel(10, 20)[1] < 0.01f * image.pixel(30, 20)[1], how);
        }
    }

    /// Spots and points tell the thickness from a cone's map, six places of the atlas, or a cube.
    void lamps_of_all_kinds_tell_the_thickness() {
        const double d = 0.05, thickness = 0.03, far = 4;
        SceneAsset a;
        a.materials.push_back(wax(glm::vec3(static_cast<float>(d))));
        add_box(a, 0, {-1, -1, -0.03f}, {2, 2, 0.03f});
        a.digest = 77;
        Scene scene;
        scene.asset = finished(std::move(a));
        Light lamp;
        lamp.id = 1;
        lamp.position = {0, 0, static_cast<float>(-far)};
        lamp.direction = {0, 0, 1};
        lamp.intensity = 8000;
        lamp.innerConeAngle = 0.3f;
        lamp.outerConeAngle = 0.5f;
        for (const auto& [type, points] :
             {std::pair(LightType::spot, "atlas"), {LightType::point, "atlas"}, {LightType::point, "cube"}}) {
            lamp.type = type;
            scene.lights = {lamp};
            for (const char* path : {"forward", "tiled-deferred"}) {
                const FloatImage image = hdr(scene,
                                             setup_with(plain_on(path, {{"ambient.kind", "none"},
                                                                        {"shadow.maps", "on"},
                                                                        {"shadow.points", points},
                                                                        {"subsurface.kind", "wrapped"},
                                                                        {"subsurface.thickness", "map"}})),
                                             view_from({0, 0, 3}, {0, 0, 0}, 9, 9));
                const double wanted =
                    normal_irradiance(lamp, {0, 0, 0}, derived_range(lamp, 0.05f), RangeWindow::squared).x *
                    through_slab(thickness, glm::dvec3(d)).x * 0.8 / glm::pi<double>() * 0.96;
                QVERIFY2(std::abs(image.pixel(4, 4)[0] / wanted - 1) < 0.1,
                         qPrintable(QString("%1 %2: %3 for %4")
                                        .arg(type == LightType::spot ? "spot" : points)
                                        .arg(path)
                                        .arg(image.pixel(4, 4)[0])
                                        .arg(wanted)));
            }
        }
    }

    /// A texture's green is the share of the thickness that lies there, on every path.
    void a_texture_tells_where_it_is_thin() {
        const double d = 0.05, thickness = 0.1;
        SceneAsset a;
        Material m = wax(glm::vec3(static_cast<float>(d)), static_cast<float>(thickness));
        m.textures[static_cast<int>(TextureSlot::thickness)] = 0;
        a.materials.push_back(m);
        a.images.push_back({"thickness", 2, 1, {255, 51, 255, 255, 0, 204, 0, 255}});
        a.textures.push_back(
            {.image = 0, .wrapU = Wrap::clamp, .wrapV = Wrap::clamp, .linear = false, .mipmaps = false});
        add_quad(a, 0, {-1, -1, 0}, {2, 0, 0}, {0, 2, 0});
        Scene scene;
        scene.asset = finished(std::move(a));
        scene.lights = {sun({0, 0, 1}, 1000)};
        for (const char* path : paths) {
            const FloatImage image = hdr(scene,
                                         setup_with(plain_on(path, {{"ambient.kind", "none"},
                                                                    {"subsurface.kind", "wrapped"},
                                                                    {"subsurface.thickness", "texture"}})),
                                         view_from({0, 0, 3}, {0, 0, 0}, 20, 20));
            for (const auto& [x, share] : {std::pair(6, 0.2), {14, 0.8}}) {
                const double wanted =
                    1000 * through_slab(share * thickness, glm::dvec3(d)).x * 0.8 / glm::pi<double>() * 0.96;
                QVERIFY2(
                    std::abs(image.pixel(x, 10)[0] / wanted - 1) < 0.02,
                    qPrintable(QString("%1 at %2: %3 for %4").arg(path).arg(x).arg(image.pixel(x, 10)[0]).arg(wanted)));
            }
        }
    }

    /// A light without a map tells no thickness: nothing of it comes through.
    void without_a_map_nothing_comes_through() {
        SceneAsset a;
        a.materials = {wax(glm::vec3(0.05f), 0.02f)};
        add_box(a, 0, {-1, -1, -0.02f}, {2, 2, 0.02f});
        Scene scene;
        scene.asset = finished(std::move(a));
        scene.lights = {sun({0, 0, 1}, 1000)};
        const FloatImage image = hdr(scene,
                                     setup_with(plain_on("forward", {{"ambient.kind", "none"},
                                                                     {"subsurface.kind", "wrapped"},
                                                                     {"subsurface.thickness", "map"}})),
                                     view_from({0, 0, 3}, {0, 0, 0}, 9, 9));
        QCOMPARE(image.pixel(4, 4)[1], 0.0f);
    }

    /// What comes through is the light's in the ledger: it is all that the picture has, evaluated once a pixel.
    void the_ledger_has_what_comes_through() {
        SceneAsset a;
        a.materials = {wax(glm::vec3(0.05f), 0.02f)};
        add_box(a, 0, {-1, -1, -0.02f}, {2, 2, 0.02f});
        Scene scene;
        scene.asset = finished(std::move(a));
        scene.lights = {sun({0.3f, 0, 1}, 1000)};
        const View view = view_from({0, 0, 1}, {0, 0, 0}, 48, 32);
        for (const char* path : {"forward", "additive", "tiled-deferred"}) {
            RenderOptions o;
            o.floatLayers = {"final"};
            o.ledger = true;
            const FrameRecord r = rendered(scene,
                                           setup_with(plain_on(path, {{"ambient.kind", "none"},
                                                                      {"subsurface.kind", "wrapped"},
                                                                      {"subsurface.thickness", "texture"}})),
                                           view, o);
            double sum = 0;
            const FloatImage& image = r.floats.at("final");
            for (std::size_t i = 0; i < image.data.size(); i += 4)
                sum += 0.2126 * image.data[i] + 0.7152 * image.data[i + 1] + 0.0722 * image.data[i + 2];
            QCOMPARE(r.ledger.size(), std::size_t(1));
            QVERIFY2(sum > 1000 && std::abs(r.ledger[0].luminance / sum - 1) < 2e-3,
                     qPrintable(QString("%1: %2 of %3").arg(path).arg(r.ledger[0].luminance).arg(sum)));
            QCOMPARE(r.ledger[0].evaluations, std::uint64_t(48 * 32));
        }
    }

    /// A ball's shade begins later where light wraps; a ball of paint stays as it is.
    void wrapped_light_passes_the_terminator_of_wax_alone() {
        for (const bool waxen : {true, false}) {
            SceneAsset a;
            a.materials.push_back(waxen ? wax({0.05f, 0.02f, 0.01f}) : plain_material({0.8f, 0.7f, 0.5f}, 0, 0.6f));
            add_quad(a, 0, {-1, -1, 0}, {2, 0, 0}, {0, 2, 0});
            Scene scene;
            scene.asset = finished(std::move(a));
            const glm::vec3 grazing(1, 0, 0.2f); // from behind the wall
            scene.lights = {sun(grazing, 100)};
            const View view = view_from({0, 0, 3}, {0, 0, 0}, 3, 3);
            const FloatImage image = hdr(
                scene,
                setup_with(plain_on(
                    "forward", {{"ambient.kind", "none"}, {"subsurface.kind", "wrapped"}, {"subsurface.wrap", "0.6"}})),
                view);
            const glm::dvec3 ramp =
                waxen ? wrapped_ramp(-0.2 / std::sqrt(1.04), wrap_of({0.05, 0.02, 0.01}, 0.6)) : glm::dvec3(0.0);
            for (int c = 0; c < 3; ++c) {
                const double wanted = 100 * ramp[c] * glm::vec3(0.8f, 0.7f, 0.5f)[c] / glm::pi<double>() * 0.96;
                QVERIFY2(std::abs(image.pixel(1, 1)[c] - wanted) < 1e-3 * wanted + 1e-5,
                         qPrintable(QString("%1 for %2").arg(image.pixel(1, 1)[c]).arg(wanted)));
            }
        }
    }

    void accounts_sum_to_the_picture() {
        double worst = 0;
        for (const Values& kind :
             std::vector<Values>{{{"subsurface.kind", "wrapped"}, {"subsurface.thickness", "texture"}},
                                 {{"subsurface.kind", "blur"}, {"subsurface.thickness", "map"}}})
            for (const char* path : {"forward", "additive", "volumes", "clustered-deferred"}) {
                Scene scene = random_scene(7, 30);
                give_optics(scene);
                const View view = view_from({5, 3, 11}, {0, 1, 0}, 97, 61);
                const Setup s = setup_with(plain_on(path, plus(kind, {{"shadow.maps", "on"}})));
                for (const glm::ivec2 p : {glm::ivec2(48, 30), {20, 45}, {70, 40}, {60, 22}, {40, 50}, {52, 40}}) {
                    RenderOptions o;
                    o.lightLists = true;
                    o.probe = p;
                    const FrameRecord r = rendered(scene, s, view, o);
                    const PixelAccount a = pixel_account(scene, s, view, build_draw_list(scene, s, view), *r.probe,
                                                         r.lightGrid, r.transparentGrid);
                    QVERIFY2(a.difference < 4e-3,
                             qPrintable(QString("%1 at %2,%3: %4").arg(path).arg(p.x).arg(p.y).arg(a.difference)));
                    worst = std::max(worst, a.difference);
                }
            }
        qInfo("largest difference %.1e", worst);
    }

    /// One lamp over a coated plane: a coat for every pixel that it lights.
    void coats_are_counted() {
        SceneAsset a;
        Material m = plain_material(glm::vec3(0.5f), 0, 0.6f);
        m.optics.coat = 1;
        a.materials.push_back(m);
        add_quad(a, 0, {-10, 0, 10}, {20, 0, 0}, {0, 0, -20});
        const Scene scene{finished(std::move(a)), {sun({0, -1, 0}, 10)}, {}, {}};
        View view = view_from({0, 4, 0.01f}, {0, 0, 0}, 64, 36);
        RenderOptions o;
        o.count = true;
        const FrameRecord r = rendered(scene, setup_with(plain_on("deferred")), view, o);
        std::uint64_t coats = 0;
        for (const PassRecord& p : r.passes)
            coats += p.work.at("coatLights");
        QCOMPARE(coats, std::uint64_t(64 * 36));
    }

    /// The spread stops where the picture's depth steps: nothing of the wax before reaches the one behind.
    void the_blur_stays_on_its_side_of_an_edge() {
        SceneAsset a;
        a.materials.push_back(wax(glm::vec3(0.05f)));
        add_quad(a, 0, {-2, -2, -1}, {4, 0, 0}, {0, 4, 0}); // behind, dark
        add_quad(a, 0, {-2, -2, 0}, {2, 0, 0}, {0, 4, 0});  // before its left half, lit
        Scene scene;
        scene.asset = finished(std::move(a));
        Light spot;
        spot.id = 2;
        spot.position = {-0.5f, 0, 0.8f};
        spot.range = 1.0f; // does not reach the wall behind
        spot.intensity = 50;
        scene.lights = {spot};
        View view = view_from({0, 0, 3}, {0, 0, 0}, 200, 200);
        const Setup s = setup_with(
            plain_on("forward", {{"ambient.kind", "none"}, {"shading.model", "lambert"}, {"subsurface.kind", "blur"}}));
        const FloatImage image = hdr(scene, s, view);
        QVERIFY(image.pixel(96, 100)[0] > 1);
        for (int x = 101; x < 200; ++x)
            QVERIFY2(image.pixel(x, 100)[0] < 1e-4f, qPrintable(QString("%1: %2").arg(x).arg(image.pixel(x, 100)[0])));
    }
};

MIROLUX_TEST(subsurface_test)
#include "subsurface_test.moc"

#include "core/light/brdf.h"
#include "core/light/falloff.h"
#include "core/plan/camera_motion.h"
#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

class shading_test : public QObject {
    Q_OBJECT

    /// A white Lambert plane under `light`: 100 random pixels of the HDR picture against E cos / pi.
    void plane_matches(const Light& light, const char* window) {
        Scene scene{white_plane(), {light}, {}, {}};
        const Setup s = setup_with({{"shading.model", "lambert"},
                                    {"ambient.kind", "none"},
                                    {"path.targetFormat", "rgba32f"},
                                    {"light.window", window}});
        const View view = view_from({0, 6, 7}, {0, 0, 0}, 320, 240);
        const FloatImage image = hdr(scene, s, view);
        std::mt19937 r(42);
        int lit = 0;
        for (int i = 0; i < 100; ++i) {
            const int x = static_cast<int>(r() % 320), y = static_cast<int>(r() % 240);
            const Ray ray = ray_through(view, x + 0.5, y + 0.5);
            const float t = -ray.origin.y / ray.direction.y;
            const glm::vec3 p = ray.origin + ray.direction * t;
            if (t <= 0 || std::abs(p.x) > 9.9f || std::abs(p.z) > 9.9f) continue;
            const RangeWindow w = std::string(window) == "squared" ? RangeWindow::squared : RangeWindow::unsquared;
            const glm::dvec3 e = normal_irradiance(light, p, derived_range(light, 0.05f), w);
            const double cosine = glm::normalize(glm::dvec3(light.position) - glm::dvec3(p)).y;
            const double wanted = e.g * std::max(cosine, 0.0) / glm::pi<double>(), got = image.pixel(x, y)[1];
            if (wanted > 1e-3) ++lit;
            QVERIFY2(std::abs(got - wanted) <= 0.005 * wanted + 1e-5,
                     qPrintable(QString("pixel %1,%2: %3, closed form %4").arg(x).arg(y).arg(got).arg(wanted)));
        }
        QVERIFY2(lit > 30, qPrintable(QString::number(lit)));
    }

private slots:
    void inverse_square_matches_the_closed_form() {
        Light l;
        l.position = {0.4f, 2.5f, -0.3f};
        l.intensity = 120;
        plane_matches(l, "squared");
        l.range = 6;
        plane_matches(l, "squared");
        plane_matches(l, "unsquared");
    }

    void cone_matches_the_closed_form() {
        Light l;
        l.type = LightType::spot;
        l.position = {-0.5f, 4, 0.5f};
        l.direction = glm::normalize(glm::vec3(0.2f, -1, 0.1f));
        l.intensity = 300;
        l.innerConeAngle = 0.2f;
        l.outerConeAngle = 0.9f;
        plane_matches(l, "squared");
        l.range = 9;
        plane_matches(l, "unsquared");
    }

    void every_shading_model_gives_what_the_reference_gives() {
        for (const auto& [name, model] : {std::pair("lambert", brdf::Model::lambert),
                                          {"phong", brdf::Model::phong},
                                          {"blinn-phong", brdf::Model::blinnPhong},
                                          {"ggx", brdf::Model::ggx}})
            for (const auto& [normalised, diffuseShare, specularShare] :
                 {std::tuple("on", 1.0f, 1.0f), {"off", 1.0f, 1.0f}, {"on", 0.25f, 0.0f}, {"on", 0.0f, 0.7f}}) {
                SceneAsset a;
                a.materials.push_back(plain_material({0.7f, 0.4f, 0.2f}, 0.35f, 0.4f));
                add_quad(a, 0, {-10, 0, 10}, {20, 0, 0}, {0, 0, -20});
                Light l;
                l.position = {1, 3, -2};
                l.intensity = 90;
                l.diffuseShare = diffuseShare;
                l.specularShare = specularShare;
                const Scene scene{finished(std::move(a)), {l}, {}, {}};
                const View view = view_from({0, 4, 7}, {0, 0, 0}, 160, 120);
                const FloatImage image = hdr(scene,
                                             setup_with({{"shading.model", name},
                                                         {"shading.normalised", normalised},
                                                         {"shading.exponent", "20"},
                                                         {"ambient.kind", "none"},
                                                         {"path.targetFormat", "rgba32f"}}),
                                             view);
                for (int y = 30; y < 120; y += 9)
                    for (int x = 3; x < 160; x += 11) {
                        const Ray ray = ray_through(view, x + 0.5, y + 0.5);
                        const glm::dvec3 p = ray.origin + ray.direction * (-ray.origin.y / ray.direction.y);
                        if (ray.direction.y >= -0.05f || std::abs(p.x) > 9.8 || std::abs(p.z) > 9.8) continue;
                        const glm::dvec3 n(0, 1, 0), toLight = glm::normalize(glm::dvec3(l.position) - p),
                                                     toEye = glm::normalize(glm::dvec3(view.camera.eye) - p);
                        brdf::Surface surface{glm::dvec3(0.7f, 0.4f, 0.2f), 0.35f, 0.4f};
                        const brdf::Lobes lobes =
                            brdf::evaluate(model, surface, 20, std::string(normalised) == "on", n, toLight, toEye);
                        const glm::dvec3 wanted =
                            (lobes.diffuse * double(diffuseShare) + lobes.specular * double(specularShare)) *
                            normal_irradiance(l, p, derived_range(l, 0.05f), RangeWindow::squared) *
                            glm::dot(n, toLight);
                        for (int c = 0; c < 3; ++c)
                            QVERIFY2(std::abs(image.pixel(x, y)[c] - wanted[c]) <= 2e-3 * wanted[c] + 1e-6,
                                     qPrintable(QString("%1 at %2,%3: %4 against %5")
                                                    .arg(name)
                                                    .arg(x)
                                                    .arg(y)
                                                    .arg(image.pixel(x, y)[c])
                                                    .arg(wanted[c])));
                    }
            }
    }

    void ambient_gradient_follows_the_normal() {
        SceneAsset a;
        a.materials.push_back(plain_material(glm::vec3(0.5f), 0, 1));
        add_box(a, 0, {-1, -1, -1}, {2, 2, 2});
        const Scene scene{finished(std::move(a)), {}, {}, {}};
        const Setup s = setup_with({{"ambient.kind", "gradient"},
                                    {"ambient.top", "1,0,0"},
                                    {"ambient.side", "0,1,0"},
                                    {"ambient.bottom", "0,0,1"},
                                    {"path.targetFormat", "rgba32f"}});
        const float reflectance = 0.5f + 0.04f;
        const FloatImage top = hdr(scene, s, view_from({0, 5, 0.01f}, {0, 0, 0}, 32, 32)),
                         side = hdr(scene, s, view_from({0, 0, 5}, {0, 0, 0}, 32, 32)),
                         below = hdr(scene, s, view_from({0, -5, 0.01f}, {0, 0, 0}, 32, 32));
        for (const auto& [image, channel] : {std::pair(&top, 0), {&side, 1}, {&below, 2}})
            for (int c = 0; c < 3; ++c)
                QVERIFY(std::abs(image->pixel(16, 16)[c] - (c == channel ? reflectance : 0.0f)) < 1e-5f);
    }

    void double_sided_unlit_and_alpha_modes() {
        auto pixel = [](Material m, glm::vec3 eye) {
            SceneAsset a;
            a.materials.push_back(m);
            add_quad(a, 0, {-1, -1, 0}, {2, 0, 0}, {0, 2, 0}); // faces +z
            const Scene scene{finished(std::move(a)), {}, {}, {}};
            return hdr(scene, setup_with({{"ambient.kind", "none"}, {"path.targetFormat", "rgba32f"}}),
                       view_from(eye, {0, 0, 0}, 16, 16))
                .pixel(8, 8)[0];
        };
        Material m = plain_material(glm::vec3(0.25f), 0, 1);
        m.unlit = true;
        QCOMPARE(pixel(m, {0, 0, 3}), 0.25f);
        QCOMPARE(pixel(m, {0, 0, -3}), 0.0f); // seen from behind: culled
        m.doubleSided = true;
        QCOMPARE(pixel(m, {0, 0, -3}), 0.25f);
        m.alphaMode = AlphaMode::mask;
        m.baseColor.a = 0.3f;
        m.alphaCutoff = 0.4f;
        QCOMPARE(pixel(m, {0, 0, 3}), 0.0f);
        m.alphaCutoff = 0.2f;
        QCOMPARE(pixel(m, {0, 0, 3}), 0.25f);
        m.alphaMode = AlphaMode::blend;
        QVERIFY(std::abs(pixel(m, {0, 0, 3}) - 0.075f) < 1e-6f);
    }

    void blended_surfaces_are_sorted_back_to_front() {
        SceneAsset a;
        Material red = plain_material({1, 0, 0}, 0, 1), blue = plain_material({0, 0, 1}, 0, 1);
        for (Material* m : {&red, &blue}) {
            m->unlit = true;
            m->alphaMode = AlphaMode::blend;
            m->baseColor.a = 0.5f;
        }
        a.materials = {red, blue};
        add_quad(a, 0, {-1, -1, 1}, {2, 0, 0}, {0, 2, 0});
        add_quad(a, 1, {-1, -1, -1}, {2, 0, 0}, {0, 2, 0});
        a.materials[0].doubleSided = a.materials[1].doubleSided = true;
        const Scene scene{finished(std::move(a)), {}, {}, {}};
        const Setup s = setup_with({{"ambient.kind", "none"}, {"path.targetFormat", "rgba32f"}});
        const FloatImage front = hdr(scene, s, view_from({0, 0, 6}, {0, 0, 0}, 16, 16)),
                         back = hdr(scene, s, view_from({0, 0, -6}, {0, 0, 0}, 16, 16));
        QCOMPARE(front.pixel(8, 8)[0], 0.5f);
        QCOMPARE(front.pixel(8, 8)[2], 0.25f);
        QCOMPARE(back.pixel(8, 8)[0], 0.25f);
        QCOMPARE(back.pixel(8, 8)[2], 0.5f);
    }
};

MIROLUX_TEST(shading_test)
#include "shading_test.moc"

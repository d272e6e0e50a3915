#include "core/flat/flat_light.h"
#include "flat_session.h"

using namespace mirolux;
using namespace mirolux::test;

namespace {

/// True if a wall's corner lies within a texel of the way from one point to the other.
bool passes_corner(const std::vector<flat::Edge>& edges, const glm::dvec2& from, const glm::dvec2& to) {
    const glm::dvec2 way = to - from;
    return std::any_of(edges.begin(), edges.end(), [&](const flat::Edge& e) {
        const double share = glm::clamp(glm::dot(e.a - from, way) / glm::dot(way, way), 0.0, 1.0);
        return glm::length(from + way * share - e.a) < 1;
    });
}

/// Pixels in which light shows other than `lit` says, and all that were asked: not those beside which `lit` changes
/// within one of these distances, and (`cells`) not those whose way passes a wall's corner.
struct Told {
    long wrong = 0, all = 0;
};
template <class Lit>
Told told_of(const FloatImage& picture, const Light& lamp, const std::vector<flat::Edge>& edges, bool cells,
             std::initializer_list<double> around, const Lit& lit) {
    Told out;
    for (int y = 0; y < 72; ++y)
        for (int x = 0; x < 128; ++x) {
            const glm::dvec2 at(x + 0.5, 72 - y - 0.5);
            if (glm::length(at - glm::dvec2(lamp.position)) > lamp.range - 1) continue;
            const bool here = lit(at);
            bool edge = cells && passes_corner(edges, flat::shadow_origin(lamp, at), at);
            for (int k = 0; k < 16 && !edge; ++k)
                for (const double r : around)
                    edge = edge || lit(at + r * glm::dvec2(std::cos(0.3927 * k), std::sin(0.3927 * k))) != here;
            if (edge) continue;
            ++out.all;
            out.wrong += (picture.pixel(x, y)[0] > 0) != here;
        }
    return out;
}

} // namespace

/// What walls of a flat stage keep away, by every kind of shadow.
class flat_shadows_test : public QObject {
    Q_OBJECT
private slots:
    /// Away from a texel of any edge's shadow, every kind of shadow says what rays say: for round lights and
    /// directional ones.
    void shadows_see_what_rays_see_data() {
        QTest::addColumn<QString>("kind");
        QTest::addColumn<QString>("shadow");
        QTest::addColumn<double>("texel"); // how far around a pixel its shadow may begin
        for (const char* kind : {"mask", "compute"})
            for (const auto& [shadow, texel] :
                 {std::pair("polar", 0.3), {"quads", 0.01}, {"field", 1.0}, {"march", 1.0}})
                if (shadow != std::string("quads") || kind == std::string("mask"))
                    QTest::newRow(qPrintable(QString("%1 %2").arg(kind, shadow))) << kind << shadow << texel;
    }

    void shadows_see_what_rays_see() {
        QFETCH(QString, kind);
        QFETCH(QString, shadow);
        QFETCH(double, texel);
        long wrong = 0, all = 0;
        for (unsigned seed = 50; seed < 58; ++seed) {
            FlatStage s = flat_stage(seed, 3, 7);
            s.scene.lights = {Light(s.scene.lights.front())};
            Light& lamp = s.scene.lights.front();
            if (seed % 2) {
                lamp.type = LightType::directional;
                lamp.direction = glm::normalize(glm::vec3(0.3f, -0.8f, -0.5f));
            }
            lamp.range = 70;
            flat_choose(s, "flat.kind", qPrintable(kind));
            flat_choose(s, "flat.shadow", qPrintable(shadow));
            if (shadow == "polar") flat_choose(s, "polar.texels", "2048");
            if (shadow == "field" || shadow == "march") {
                flat_choose(s, "occluders.scale", "1");
                flat_choose(s, "occluders.margin", "0.2");
            }
            flat_choose(s, "flat.ambient", "0,0,0");
            const bool cells = shadow == "field" || shadow == "march"; // a wall's edge is known to a texel
            const auto edges = flat::edges_of(flat::outlines_of(*s.scene.flat));
            const FloatImage picture = flat_floats(s, "final");
            const Told told = told_of(picture, lamp, edges, cells, {0.5 * texel, texel}, [&](const glm::dvec2& p) {
                return flat::sees(edges, flat::shadow_origin(lamp, p), p);
            });
            wrong += told.wrong;
            all += told.all;
        }
        QVERIFY2(all > 25000 && wrong * 1000 < all, qPrintable(QString("%1 of %2").arg(wrong).arg(all)));
    }

    /// Seen from above, light passes over a wall that is lower than its way.
    void shadows_of_walls_with_a_height_end() {
        for (const char* shadow : {"quads", "march"})
            for (unsigned seed = 50; seed < 54; ++seed) {
                FlatStage s = flat_stage(seed, 1, 6);
                flat::World w = *s.scene.flat;
                w.seen = flat::Seen::above;
                for (std::size_t i = 0; i < w.walls.size(); ++i)
                    w.walls[i].height = i % 3 == 0 ? 0.0f : 3.0f + static_cast<float>(i);
                s.scene.flat = std::make_shared<const flat::World>(w);
                Light& l = s.scene.lights[0];
                l.type = seed % 2 ? LightType::directional : LightType::point;
                l.direction = glm::normalize(glm::vec3(0.5f, -0.6f, -0.6f));
                l.position.z = 12;
                l.range = 300;
                flat_choose(s, "flat.shadow", shadow);
                flat_choose(s, "flat.ambient", "0,0,0");
                flat_choose(s, "occluders.scale", "1");
                const FloatImage picture = flat_floats(s, "final");
                const auto lit = [&](const glm::dvec2& p) { // by the ray from the ground up to the light
                    const glm::dvec2 toward =
                        l.type == LightType::directional ? p - glm::dvec2(l.direction) * 300.0 : glm::dvec2(l.position);
                    const double rise = l.type == LightType::directional
                                            ? -l.direction.z / glm::length(glm::dvec2(l.direction))
                                            : 12 / std::max(1e-9, glm::length(toward - p));
                    for (const flat::Wall& wall : w.walls)
                        for (const flat::Edge& e : flat::edges_of({flat::outline_of(w, wall)})) {
                            const glm::dvec2 d = e.b - e.a, way = toward - p, to = e.a - p;
                            const double across = way.x * d.y - way.y * d.x, t = (to.x * d.y - to.y * d.x) / across,
                                         u = (to.x * way.y - to.y * way.x) / across;
                            if (t > 0 && t < 1 && u >= 0 && u <= 1 &&
                                (wall.height <= 0 || t * glm::length(way) * rise < wall.height))
                                return false;
                        }
                    return true;
                };
                const auto edges = flat::edges_of(flat::outlines_of(w));
                const bool cells = shadow == std::string("march");
                const auto [wrong, all] = told_of(picture, l, edges, cells, {cells ? 2.0 : 0.05}, lit);
                QVERIFY2(all > 3000 && wrong * (cells ? 200 : 1000) <= all,
                         qPrintable(QString("%1 %2: %3 of %4").arg(shadow).arg(seed).arg(wrong).arg(all)));
            }
    }

    /// Quads lay the same light as fans: groups with a limit, lights that cast nothing, sprites that no shadow falls
    /// on.
    void quads_and_fans_lay_the_same_light() {
        for (unsigned seed = 70; seed < 74; ++seed) {
            FlatStage s = flat_stage(seed, 12, 7);
            s.scene.lights[2].flat.casts = false;
            s.scene.lights[4].flat.strongest = 0.4f;
            if (seed % 2) {
                flat::World w = *s.scene.flat;
                w.sprites[0].receives = false;
                s.scene.flat = std::make_shared<const flat::World>(std::move(w));
            }
            const FloatImage fans = flat_floats(s, "final");
            flat_choose(s, "flat.shadow", "quads");
            const FloatImage quads = flat_floats(s, "final");
            int other = 0;
            for (std::size_t i = 0; i < fans.data.size(); ++i)
                other += std::abs(fans.data[i] - quads.data[i]) > 1.0f / 255;
            QVERIFY2(other <= 30, qPrintable(QString::number(other))); // pixels that an edge's shadow begins in
            RenderOptions o;
            o.floatLayers = {"lamplight"};
            o.light = s.scene.lights[1].id;
            const FloatImage alone = flat_frame(s, o).floats.at("lamplight");
            flat_choose(s, "flat.shadow", "polygon");
            QVERIFY(alone.data == flat_frame(s, o).floats.at("lamplight").data);
        }
    }

    /// Behind a wall's end a light of some size leaves a half shadow as wide as it should be, about where it should be.
    void fields_soften_shadows_by_the_lights_size() {
        FlatStage s = flat_stage(2, 1, 0);
        flat::World w = *s.scene.flat;
        flat::Wall wall;
        wall.id = 1;
        wall.outline.points = {{60, -10}, {64, -10}, {64, 36}, {60, 36}};
        w.walls = {wall};
        s.scene.flat = std::make_shared<const flat::World>(std::move(w));
        Light& l = s.scene.lights[0];
        l.type = LightType::point;
        l.position = {20, 30, 5};
        l.range = 200;
        flat_choose(s, "flat.ambient", "0,0,0");
        flat_choose(s, "flat.shadow", "field");
        flat_choose(s, "occluders.scale", "1");
        flat_choose(s, "occluders.margin", "0.2");
        const auto half_lit = [&](float size, const char* soft) {
            l.sourceSize = size;
            flat_choose(s, "field.penumbra", soft);
            RenderOptions o;
            o.floatLayers = {"lightmask"};
            const FloatImage mask = flat_frame(s, o).floats.at("lightmask");
            flat_choose(s, "flat.shadow", "none");
            const FloatImage open = flat_frame(s, o).floats.at("lightmask");
            flat_choose(s, "flat.shadow", "field");
            int count = 0;
            for (int y = 0; y < 72; ++y) {
                const float share = mask.pixel(118, y)[0] / open.pixel(118, y)[0];
                count += share > 0.02f && share < 0.98f;
            }
            return count;
        };
        QCOMPARE(half_lit(8, "off"), 0);
        const int small = half_lit(4, "on"), large = half_lit(12, "on");
        // The light is 42 units before the wall's end, the column 56 behind it: a half shadow of size * 56 / 42, of
        // which the field knows the part that is lit.
        QVERIFY2(small >= 2 && small <= 6 && large >= 6 && large <= 17 && large > small,
                 qPrintable(QString("%1 %2").arg(small).arg(large)));
    }

    /// What a moving light sees is made anew in each frame, a still one's once: both draw the same.
    void kept_shadows_are_those_that_are_made_anew() {
        FlatStage s = flat_stage(33, 6, 7);
        const FloatImage kept = flat_floats(s, "final");
        flat_choose(s, "flat.keepShadows", "off");
        const FloatImage anew = flat_floats(s, "final");
        int differ = 0;
        for (std::size_t i = 0; i < kept.data.size(); ++i)
            differ += std::abs(kept.data[i] - anew.data[i]) > 1.0f / 255;
        QVERIFY2(differ <= 12,
                 qPrintable(QString::number(differ))); // fans are cut off elsewhere: rounding at their rims
        QVERIFY(plan_frame(s.scene, s.setup, s.view).pass("sweep") != nullptr);
    }
};

MIROLUX_TEST(flat_shadows_test)
#include "flat_shadows_test.moc"

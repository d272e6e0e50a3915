#include "core/shadow/shadow_set.h"
#include "core/light/luminance.h"
#include "core/visibility/rooms.h"
#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <deque>
#include <optional>
#include <span>

namespace mirolux {

namespace {

/// Texels beyond the cone or the face that a map holds, for filters that reach over its edge.
constexpr double margin = 3;

struct Axes {
    glm::dvec3 x, y, forward;
};

Axes spot_axes(const glm::dvec3& direction) {
    const glm::dmat3 a = light_axes(direction);
    return {a[0], a[1], -a[2]};
}

/// Faces in the order +x -x +y -y +z -z.
Axes face_axes(int face) {
    glm::dvec3 forward(0.0), up(0, 1, 0);
    forward[face / 2] = face % 2 == 0 ? 1 : -1;
    if (face / 2 == 1) up = {0, 0, 1};
    const glm::dvec3 x = glm::normalize(glm::cross(forward, up));
    return {x, glm::cross(x, forward), forward};
}

/// The same, turned as a cube map holds them (OpenGL 4.5, table 8.19).
Axes cube_axes(int face) {
    const Axes a = face_axes(face);
    return face == 2 ? a : Axes{-a.x, -a.y, a.forward};
}

glm::dmat4 perspective_map(const Axes& a, const glm::dvec3& from, double tangent, double near) {
    glm::dmat4 m(0.0);
    for (int k = 0; k < 3; ++k) {
        m[k][0] = a.x[k] / tangent;
        m[k][1] = a.y[k] / tangent;
        m[k][3] = a.forward[k];
    }
    m[3] = {-glm::dot(a.x, from) / tangent, -glm::dot(a.y, from) / tangent, near, -glm::dot(a.forward, from)};
    return m;
}

/// What bounds the boxes that may fall on a map: its four sides, and before the light or behind the range.
class Bounds {
public:
    explicit Bounds(const ShadowMap& map) {
        const glm::dmat4 rows = glm::transpose(map.toMap);
        planes_ = {rows[3] + rows[0], rows[3] - rows[0], rows[3] + rows[1], rows[3] - rows[1],
                   map.perspective ? rows[3] - glm::dvec4(0, 0, 0, map.near) : rows[2]};
    }
    /// False only if all of the box lies beyond one of them.
    bool may_hold(const Box& box) const {
        const glm::dvec3 middle(box.center()), half(0.5f * box.size());
        for (const glm::dvec4& p : planes_)
            if (glm::dot(glm::dvec3(p), middle) + p.w + glm::dot(glm::abs(glm::dvec3(p)), half) < 0) return false;
        return true;
    }

private:
    std::array<glm::dvec4, 5> planes_;
};

/// The share of the picture that lies in a light's reach, times how bright it is there: its intensity over its reach
/// squared. By intensity alone, floodlights far away would take the maps of the lamps that one stands under.
double importance_of(const Light& l, float reach, const View& view) {
    const double strength = luminance(glm::dvec3(effective_color(l)) * double(l.intensity));
    if (l.type == LightType::directional) return 1e30 * strength;
    const Sphere s = light_bounds(l, reach);
    const PixelRect r = sphere_rect(view, s.center, s.radius);
    return strength / std::max(1e-6, double(reach) * reach) * std::max(0, r.x1 - r.x0) * std::max(0, r.y1 - r.y0) /
           (double(view.width) * view.height);
}

class Maker {
public:
    /// rooms: what is in none that a light gets into casts no shadow of it; null: all may.
    Maker(const Scene& scene, const Setup& setup, const View& view, const DrawList& draws, const Rooms* rooms)
        : rooms_(rooms), scene_(scene), setup_(setup), view_(at_whole_size(view)), draws_(draws),
          blended_(blended_casters(setup)), proxies_(setup.flag("shadow.proxies")) {}

    ShadowSet make() {
        if (!setup_.flag("shadow.maps") || view_.width <= 0 || view_.height <= 0) return {};
        out_.cascades = cascade_choices(setup_);
        std::vector<MapWish> wished = wishes();
        const std::vector<MapWish> points = take_points(wished);
        const ShadowAtlas atlas = shadow_atlas(std::move(wished), choices());
        out_.refused.insert(out_.refused.end(), atlas.refused.begin(), atlas.refused.end());
        for (const MapWish& p : points) {
            std::vector<MapPlace> faces;
            for (int face = 0; face < 6; ++face)
                faces.push_back({p.light, face, 0, 0, out_.cubeSize});
            take(faces, out_.cubes++);
        }
        for (std::size_t i = 0; i < atlas.places.size();) {
            std::size_t end = i;
            while (end < atlas.places.size() && atlas.places[end].light == atlas.places[i].light)
                ++end;
            take({atlas.places.data() + i, end - i});
            i = end;
        }
        std::sort(out_.lights.begin(), out_.lights.end(),
                  [](const ShadowedLight& a, const ShadowedLight& b) { return a.light < b.light; });
        for (const ShadowMap& m : out_.maps) {
            if (m.layer >= 0) continue;
            out_.width = std::max(out_.width, static_cast<int>(std::bit_ceil(static_cast<unsigned>(m.x + m.size))));
            out_.height = std::max(out_.height, static_cast<int>(std::bit_ceil(static_cast<unsigned>(m.y + m.size))));
        }
        return std::move(out_);
    }

private:
    AtlasChoices choices() const {
        AtlasChoices c;
        const double cubes = 24.0 * pointCubes_ * out_.cubeSize * out_.cubeSize,
                     texels = std::clamp((setup_.number("shadow.budget") * 1048576 - cubes) / bytes_of_texel(setup_),
                                         1.0, 16384.0 * 16384.0);
        const int bits = static_cast<int>(std::floor(std::log2(texels)));
        c.size = 1 << ((bits + 1) / 2);
        c.half = bits % 2 == 1;
        c.casters = setup_.whole("shadow.casters") - pointCubes_;
        c.most = setup_.whole("shadow.resolution");
        c.least = std::min(c.most, 64);
        return c;
    }

    std::vector<MapWish> wishes() {
        std::vector<MapWish> wishes;
        for (std::size_t i = 0; i < draws_.lights.size(); ++i) {
            const Light& l = draws_.lights[i];
            const ShadowLook look = shadow_look(l, setup_);
            if (l.shadow.mode == ShadowMode::none || look.opacity <= 0 ||
                (i < draws_.masked.size() && draws_.masked[i]))
                continue;
            MapWish w{static_cast<int>(i), importance_of(l, draws_.reach[i], view_), 1, look.resolution};
            if (l.type == LightType::directional) {
                w.faces = static_cast<int>(cascades(view_, l.direction, out_.cascades).size());
                if (w.size == 0) w.size = out_.cascades.resolution;
            } else if (takes_faces(l))
                w.faces = 6;
            if (w.faces > 0) wishes.push_back(w);
        }
        return wishes;
    }

    /// Takes out of the wishes those that are cubes: points, where the setup says so, among the lights that may cast.
    /// They take half of the budget where others share it, and are halved until they fit; what still does not is
    /// refused.
    std::vector<MapWish> take_points(std::vector<MapWish>& wishes) {
        std::vector<MapWish> points;
        if (setup_.choice("shadow.points") != "cube" || is_filterable(shadow_filter(setup_))) return points;
        std::stable_sort(wishes.begin(), wishes.end(),
                         [](const MapWish& a, const MapWish& b) { return a.importance > b.importance; });
        const auto casters = static_cast<std::size_t>(setup_.whole("shadow.casters"));
        std::vector<MapWish> others;
        for (std::size_t i = 0; i < wishes.size(); ++i) {
            const Light& l = draws_.lights[static_cast<std::size_t>(wishes[i].light)];
            (i < casters && l.type != LightType::directional && takes_faces(l) ? points : others).push_back(wishes[i]);
        }
        wishes = std::move(others);
        const double room = setup_.number("shadow.budget") * 1048576 * (wishes.empty() ? 1.0 : 0.5);
        int size = static_cast<int>(std::bit_floor(static_cast<unsigned>(setup_.whole("shadow.resolution"))));
        const int least = std::min(size, 64);
        const auto bytes = [&] { return 24.0 * size * size * static_cast<double>(points.size()); };
        while (size > least && bytes() > room)
            size /= 2;
        for (; !points.empty() && bytes() > room; points.pop_back())
            out_.refused.push_back({points.back().light, NoMap::budget});
        out_.cubeSize = points.empty() ? 0 : size;
        pointCubes_ = static_cast<int>(points.size());
        return points;
    }

    static bool takes_faces(const Light& l) {
        return l.type == LightType::point || (l.type == LightType::spot && l.outerConeAngle > widest_spot);
    }

    /// cube: number of the cube that they are faces of, or -1.
    void take(std::span<const MapPlace> places, int cube = -1) {
        const Light& l = draws_.lights[static_cast<std::size_t>(places.front().light)];
        const float reach = draws_.reach[static_cast<std::size_t>(places.front().light)];
        ShadowedLight light{places.front().light,
                            MapKind::single,
                            static_cast<int>(out_.maps.size()),
                            static_cast<int>(places.size()),
                            shadow_look(l, setup_),
                            importance_of(l, reach, view_)};
        light.kind = l.type == LightType::directional ? MapKind::cascades
                     : takes_faces(l)                 ? MapKind::faces
                                                      : MapKind::single;
        std::vector<Cascade> sun;
        if (light.kind == MapKind::cascades) {
            CascadeChoices c = out_.cascades;
            c.resolution = places.front().size; // the atlas may have made it smaller
            sun = cascades(view_, l.direction, c);
        }
        for (const MapPlace& p : places) {
            ShadowMap m{light.light, p.face, p.x, p.y, p.size, cube < 0 ? -1 : 6 * cube + p.face};
            if (light.kind == MapKind::cascades) {
                m.cascade = sun[static_cast<std::size_t>(p.face)];
                m.toMap = m.cascade.toMap;
                m.range = m.reach = m.cascade.range;
                m.tangent = 0.5 * m.cascade.texel * p.size;
            } else {
                const bool single = light.kind == MapKind::single;
                m.perspective = true;
                m.reach = reach;
                m.near = light.look.near;
                m.tangent = single ? std::tan(std::max(0.01, double(l.outerConeAngle))) : 1.0;
                if (cube < 0) m.tangent *= 1 + 2 * margin / p.size; // faces of a cube meet
                m.toMap = perspective_map(single     ? spot_axes(l.direction)
                                          : cube < 0 ? face_axes(p.face)
                                                     : cube_axes(p.face),
                                          l.position, m.tangent, m.near);
            }
            gather_casters(m, l, reach);
            out_.maps.push_back(std::move(m));
        }
        out_.lights.push_back(light);
    }

    void gather_casters(ShadowMap& m, const Light& l, float reach) const {
        const std::vector<Object>& objects = scene_.objects();
        const Bounds bounds(m);
        const std::vector<bool> lit = rooms_ && l.type != LightType::directional
                                          ? lit_rooms(*rooms_, scene_, l.position, reach)
                                          : std::vector<bool>();
        for (std::size_t o = 0; o < objects.size(); ++o) {
            const Object& object = objects[o];
            if (object.hidden || object.casts == Casting::no) continue;
            if (object.proxy ? !proxies_ : proxies_ && object.casts == Casting::proxied) continue;
            const Primitive& p = scene_.asset->primitives[static_cast<std::size_t>(object.primitive)];
            if (p.indices.empty() || (scene_.asset->material_of(object).alphaMode == AlphaMode::blend &&
                                      blended_ == BlendedCasters::nothing))
                continue;
            if (!bounds.may_hold(object.bounds)) continue;
            if (l.type != LightType::directional && !reaches(l, reach, object.bounds)) continue;
            if (!lit.empty() && !is_in(lit, o)) continue;
            m.casters.push_back(static_cast<int>(o));
            m.triangles += p.indices.size() / 3;
        }
    }

    bool is_in(const std::vector<bool>& lit, std::size_t object) const {
        const Stillness& s = stillness();
        const auto in = [&](const std::vector<std::uint16_t>& rooms) {
            return std::any_of(rooms.begin(), rooms.end(), [&](std::uint16_t r) { return lit[r]; });
        };
        return object < rooms_->ofObject.size() && s.still[object]
                   ? in(rooms_->ofObject[object])
                   : in(rooms_->rooms_of(scene_.objects()[object].bounds));
    }
    const Stillness& stillness() const {
        if (!stillness_) stillness_ = stillness_of(scene_, setup_);
        return *stillness_;
    }

    const Rooms* rooms_;
    mutable std::optional<Stillness> stillness_;
    const Scene& scene_;
    const Setup& setup_;
    const View view_; // at the size of the picture that it stands for
    const DrawList& draws_;
    const BlendedCasters blended_;
    const bool proxies_;
    int pointCubes_ = 0;
    ShadowSet out_;
};

double own_or(std::optional<float> own, double all) {
    return own ? double(*own) : all;
}

/// All that a set of maps depends on.
struct Asked {
    std::shared_ptr<const SceneAsset> asset;
    std::shared_ptr<const PlacedObjects> placed;
    View view;
    std::vector<Light> lights;
    std::vector<float> reach;
    std::vector<Value> values;            // of the settings of this station
    std::shared_ptr<const Rooms> rooms{}; // with visibility.kind portals
    std::vector<Door> doors{};

    bool operator==(const Asked&) const = default;
};

Asked asked(const Scene& scene, const Setup& setup, const View& view, const DrawList& draws) {
    static const std::vector<std::size_t> indices = [] {
        std::vector<std::size_t> out;
        for (std::size_t i = 0; i < all_settings().size(); ++i)
            if (all_settings()[i].station == "Shadows") out.push_back(i);
        return out;
    }();
    Asked a{scene.asset, scene.placed, view, draws.lights, draws.reach, {}};
    a.view.seconds = 0; // lights stand where they stand
    for (const std::size_t i : indices)
        a.values.push_back(setup.at(i));
    if (visibility_kind(setup) == VisibilityKind::portals) {
        a.rooms = rooms_of(scene, setup);
        a.doors = scene.doors;
    }
    return a;
}

template <class Enum>
Enum index_of(const Setup& setup, const char* key) {
    const Setting& s = all_settings()[static_cast<std::size_t>(setting_index(key))];
    const auto it = std::find(s.choices.begin(), s.choices.end(), setup.choice(key));
    return static_cast<Enum>(it - s.choices.begin());
}

} // namespace

const ShadowedLight* ShadowSet::of(int light) const {
    const auto it = std::lower_bound(lights.begin(), lights.end(), light,
                                     [](const ShadowedLight& s, int wanted) { return s.light < wanted; });
    return it != lights.end() && it->light == light ? &*it : nullptr;
}

bool keeps_still_apart(const Setup& setup) {
    return setup.flag("shadow.maps") && setup.flag("shadow.still") && shadow_update(setup) != ShadowUpdate::always;
}

double bytes_of_texel(const Setup& setup) {
    const ShadowFilter filter = shadow_filter(setup);
    const double depth = keeps_still_apart(setup) ? 8 : 4, withMips = 4.0 / 3.0;
    return !is_filterable(filter) ? depth : depth + (filter == ShadowFilter::variance ? 8 : 16) * withMips;
}

ShadowFilter shadow_filter(const Setup& setup) {
    return index_of<ShadowFilter>(setup, "shadow.filter");
}

BlendedCasters blended_casters(const Setup& setup) {
    return index_of<BlendedCasters>(setup, "shadow.blended");
}

ShadowUpdate shadow_update(const Setup& setup) {
    return index_of<ShadowUpdate>(setup, "shadow.update");
}

CascadeChoices cascade_choices(const Setup& setup) {
    CascadeChoices c;
    c.count = setup.whole("cascade.count");
    c.spread = setup.number("cascade.spread");
    if (setup.choice("cascade.split") == "by-hand")
        c.ends = {setup.number("cascade.end1"), setup.number("cascade.end2"), setup.number("cascade.end3")};
    c.distance = setup.number("cascade.distance");
    c.fade = setup.number("cascade.fade");
    c.blend = setup.number("cascade.blend");
    c.resolution = static_cast<int>(std::bit_floor(static_cast<unsigned>(setup.whole("cascade.resolution"))));
    c.fit = setup.choice("cascade.fit") == "slice" ? CascadeFit::slice : CascadeFit::sphere;
    c.casterReach = setup.number("cascade.casterReach");
    return c;
}

ShadowLook shadow_look(const Light& l, const Setup& setup) {
    ShadowLook look;
    look.filter = shadow_filter(setup);
    if (l.shadow.mode == ShadowMode::hard) look.filter = ShadowFilter::hard;
    if (l.shadow.mode == ShadowMode::soft && look.filter < ShadowFilter::disc) look.filter = ShadowFilter::pcss;
    look.bias = own_or(l.shadow.bias, setup.number("shadow.bias"));
    look.slopeBias = own_or(l.shadow.slopeBias, setup.number("shadow.slopeBias"));
    look.normalOffset = own_or(l.shadow.normalOffset, setup.number("shadow.normalOffset"));
    look.opacity = own_or(l.shadow.opacity, setup.number("shadow.opacity"));
    look.near = own_or(l.shadow.near, setup.number("shadow.near"));
    look.resolution = l.shadow.resolution;
    return look;
}

ShadowSet shadow_set(const Scene& scene, const Setup& setup, const View& view, const DrawList& draws) {
    if (!setup.flag("shadow.maps") || draws.lights.empty()) return {};
    // A frame is planned, prepared and drawn in figures with the same question, for A and for B: the last two answers
    // of each thread are kept.
    thread_local std::deque<std::pair<Asked, ShadowSet>> last;
    Asked now = asked(scene, setup, view, draws);
    const auto it = std::find_if(last.begin(), last.end(), [&](const auto& entry) { return entry.first == now; });
    if (it != last.end())
        std::rotate(last.begin(), it, it + 1);
    else {
        ShadowSet made = Maker(scene, setup, view, draws, now.rooms.get()).make();
        last.emplace_front(std::move(now), std::move(made));
        if (last.size() > 2) last.pop_back();
    }
    return last.front().second;
}

} // namespace mirolux

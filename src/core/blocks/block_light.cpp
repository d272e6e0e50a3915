#include "core/blocks/block_light.h"
#include "core/blocks/flood_audit.h"
#include "core/light/brdf.h"

namespace mirolux::blocks {

static constexpr double over_pi = 1 / 3.14159265358979;

FacePoint face_point(const SurfaceSample& s) {
    return {glm::dvec3(s.position), static_cast<int>(s.triangle >> 8), static_cast<int>(s.triangle & 255),
            static_cast<std::uint8_t>(s.draw)};
}

BlockLight::BlockLight(const Scene& scene, const Setup& setup, const View& view)
    : world_(scene.blocks), way_(way_of(setup)), sun_(sun_of(draw_list(scene, setup, view).lights)),
      eye_(view.camera.eye), top_(setup.color("blocks.top")), side_(setup.color("blocks.side")),
      bottom_(setup.color("blocks.bottom")), turns_(turns_of(*world_, view.seconds)), lux_(setup.number("flood.light")),
      falloff_(setup.number("flood.falloff")), wrap_(setup.number("flood.wrap")),
      smooth_(way_ == Way::flood && setup.flag("flood.smooth")), cast_(cast_options(setup)) {
    if (way_ == Way::flood || way_ == Way::floodOrigin) flood_ = flooded(world_, flood_options(setup));
    if (way_ == Way::floodOrigin) origins_ = blocks::origins(world_, flood_options(setup));
    if (way_ == Way::cast) casts_ = blocks::casts(world_, sun_.toward, turns_, cast_);
}

glm::dvec3 BlockLight::local(const FacePoint& p) const {
    if (p.part == 0) return p.position / double(world_->edge);
    const auto i = static_cast<std::size_t>(p.part - 1);
    const glm::dmat4 to(prop_matrix(*world_, world_->props[i], turns_[i]));
    return glm::dvec3(glm::inverse(to) * glm::dvec4(p.position, 1));
}

glm::ivec3 BlockLight::cell(const FacePoint& p) const {
    const glm::dvec3 d(Neighbours::directions[p.face]);
    return glm::ivec3(glm::floor(local(p) - 0.5 * d * glm::abs(d)));
}

glm::dvec3 BlockLight::normal(const FacePoint& p) const {
    const glm::dvec3 d(Neighbours::directions[p.face]);
    return p.part == 0 ? d : out_of_prop(d, turns_[static_cast<std::size_t>(p.part - 1)]);
}

glm::ivec3 BlockLight::before(const FacePoint& p) const {
    if (p.part == 0) return cell(p) + Neighbours::directions[p.face];
    return glm::ivec3(glm::floor(p.position / double(world_->edge) + 0.5 * normal(p)));
}

bool BlockLight::stops(const glm::ivec3& c) const {
    return world_->still.holds(c) && world_->still.at(c) != 0 && world_->material(world_->still.at(c)).stops_light();
}

BlockLight::CellLight BlockLight::cell_light(const glm::ivec3& c) const {
    if (stops(c)) return {};
    const auto curve = [&](int level) { return std::pow(level / double(most_light), falloff_); };
    if (!world_->still.holds(c)) return {glm::dvec3(0.0), 1, 1}; // beyond the world: the open sky
    CellLight out;
    for (int channel = 0; channel < 3; ++channel)
        out.lamps[channel] = curve(flood_->at(c, static_cast<Flood::Channel>(channel)));
    const int sun = flood_->at(c, Flood::sun);
    out.sky = curve(sun);
    out.sun = sun == most_light ? 1 : 0;
    return out;
}

BlockLight::CellLight BlockLight::face_light(const FacePoint& p) const {
    const glm::ivec3 front = before(p);
    if (!smooth_ || p.part != 0) return cell_light(front);
    const glm::ivec2 axes = axes_of(p.face);
    const glm::dvec3 at = glm::fract(local(p));
    CellLight out;
    for (int corner = 0; corner < 4; ++corner) {
        glm::ivec3 u(0), v(0);
        u[axes.x] = corner & 1 ? 1 : -1;
        v[axes.y] = corner & 2 ? 1 : -1;
        const double share =
            0.25 * (corner & 1 ? at[axes.x] : 1 - at[axes.x]) * (corner & 2 ? at[axes.y] : 1 - at[axes.y]);
        const glm::ivec3 diagonal = stops(front + u) && stops(front + v) ? front + u : front + u + v;
        for (const glm::ivec3& c : {front, front + u, front + v, diagonal}) {
            const CellLight l = cell_light(c);
            out.lamps += share * l.lamps;
            out.sky += share * l.sky;
            out.sun += share * l.sun;
        }
    }
    return out;
}

std::optional<CastHits> BlockLight::hits(const FacePoint& p) const {
    if (!casts_) return std::nullopt;
    const CastField& field = p.part == 0 ? casts_->still : casts_->props[static_cast<std::size_t>(p.part - 1)];
    const Volume& cells = p.part == 0 ? world_->still : world_->props[static_cast<std::size_t>(p.part - 1)].cells;
    const glm::ivec3 c = cell(p);
    if (!cells.holds(c) || !field.chunks[cells.chunk_of(c)]) return CastHits{};
    return (*field.chunks[cells.chunk_of(c)])[place_in_chunk(c.x, c.y, c.z)];
}

FaceLight BlockLight::at(const FacePoint& p) const {
    const Material& m = world_->material(p.material);
    const glm::dvec3 color(m.color), n = normal(p);
    FaceLight out;
    out.glow = color * double(m.glow);
    const double up = n.y * n.y;
    const glm::dvec3 ambient = (n.y > 0 ? top_ : bottom_) * up + side_ * (1 - up),
                     direct = glm::dvec3(sun_.lux) * (std::max(glm::dot(n, sun_.toward), 0.0) * over_pi);
    if (way_ == Way::faces) {
        out.sky = color * ambient;
        out.sun = color * direct;
        return out;
    }
    if (way_ == Way::cast) {
        const CastLight c = cast_light(*hits(p), cast_);
        const glm::dvec3 all = c.shadow * (1 + c.highlight) * glm::dvec3(1 + 0.3 * c.warm, 1, 1 - 0.3 * c.warm);
        out.sky = color * ambient * all;
        out.sun = color * direct * all;
        return out;
    }
    const CellLight l = face_light(p);
    const glm::dvec3 matt = way_ == Way::floodOrigin ? color * (1.0 - double(m.metallic)) : color;
    out.sky = matt * ambient * l.sky;
    out.sun = matt * direct * l.sun;
    if (way_ == Way::flood) {
        out.lamps = color * l.lamps * (lux_ * over_pi);
        return out;
    }
    const glm::ivec3 front = before(p);
    for (const Origin& o : {origins_->at(front), origins_->second_at(front)}) {
        if (o.level == 0) continue;
        const glm::dvec3 via(o.via[0], o.via[1], o.via[2]), to = via == glm::dvec3(0.0) ? n : glm::normalize(via);
        const Material& lamp = world_->material(o.material);
        const glm::dvec3 irradiance =
            glm::dvec3(lamp.light) / double(std::max({lamp.light.x, lamp.light.y, lamp.light.z, 1})) * lux_of(o.level);
        const double facing = std::max(glm::dot(n, to), 0.0);
        out.lamps += matt * irradiance * (glm::mix(facing, 1.0, wrap_) * over_pi);
        out.mirrored += mirrored(p, to, irradiance);
    }
    out.lamps += out.mirrored;
    return out;
}

glm::dvec3 BlockLight::mirrored(const FacePoint& p, const glm::dvec3& to, const glm::dvec3& irradiance) const {
    const glm::dvec3 n = normal(p);
    const double facing = glm::dot(n, to);
    if (facing <= 0) return glm::dvec3(0.0);
    const Material& m = world_->material(p.material);
    const brdf::Surface surface{glm::dvec3(m.color), double(m.metallic), double(m.roughness)};
    const glm::dvec3 toEye = glm::normalize(eye_ - p.position);
    return brdf::evaluate(brdf::Model::ggx, surface, 1, true, n, to, toEye).specular * irradiance * facing;
}

static CellAccount cell_account(const BlockLight& light, const FacePoint& p) {
    CellAccount a;
    a.cell = light.cell(p);
    a.before = light.before(p);
    a.face = p.face;
    a.material = light.world().material(p.material).name;
    if (p.part > 0) a.prop = light.world().props[static_cast<std::size_t>(p.part - 1)].name;
    const FaceLight f = light.at(p);
    a.sky = f.sky;
    a.sun = f.sun;
    a.lamps = f.lamps;
    a.glow = f.glow;
    if (const auto hits = light.hits(p)) a.hits = glm::ivec2(hits->toward, hits->away);
    if (const Flood* flood = light.flood()) {
        glm::ivec4 levels(0);
        for (int c = 0; c < Flood::channels; ++c)
            levels[c] = flood->at(a.before, static_cast<Flood::Channel>(c));
        a.levels = levels;
        a.why = why_dark(*flood, light.world().palette, a.before);
    }
    if (const OriginFlood* origins = light.origins()) a.way = origins->way_back(a.before);
    return a;
}

PixelAccount block_account(const Scene& scene, const Setup& setup, const View& view, const PixelProbe& probe) {
    PixelAccount a;
    a.pixel = probe.shown;
    a.picture = glm::dvec3(probe.radiance);
    if (probe.samples.empty()) {
        a.reason = "the sky";
        a.sky = a.sum = a.picture;
        a.skyWeight = 1;
        return a;
    }
    const SurfaceSample& sample = probe.samples.front();
    const BlockLight light(scene, setup, view);
    a.cell = cell_account(light, face_point(sample));
    SurfaceAccount s;
    s.object = a.cell->prop.empty() ? "cells" : a.cell->prop;
    s.material = a.cell->material;
    s.sample = sample;
    a.sum = s.radiance = a.cell->sky + a.cell->sun + a.cell->lamps + a.cell->glow;
    a.surfaces.push_back(std::move(s));
    double largest = 0.001;
    for (int c = 0; c < 3; ++c) {
        largest = std::max({largest, a.sum[c], a.picture[c]});
        a.difference = std::max(a.difference, std::abs(a.sum[c] - a.picture[c]));
    }
    a.difference /= largest;
    const double parts[] = {a.cell->sky.y, a.cell->sun.y, a.cell->lamps.y, a.cell->glow.y};
    static const char* const names[] = {"mostly the sky's light", "mostly the sun's or the moon's",
                                        "mostly lamps' light", "mostly its own glow"};
    const auto most = std::max_element(std::begin(parts), std::end(parts)) - std::begin(parts);
    a.reason = a.sum.y < 1e-4 ? "dark: " + (a.cell->why.empty() ? std::string("nothing lights this face") : a.cell->why)
                              : std::string(names[most]);
    return a;
}

} // namespace mirolux::blocks

#include "core/account/pixel_account.h"
#include "core/ambient/probes.h"
#include "core/bake/baked_light.h"
#include "core/base/text.h"
#include "core/blocks/block_light.h"
#include "core/cull/light_lists.h"
#include "core/finish/exposure.h"
#include "core/flat/flat_account.h"
#include "core/light/brdf.h"
#include "core/light/luminance.h"
#include "core/light/tone.h"
#include "core/path/path_kind.h"
#include "core/sky/sky_model.h"
#include "core/surface/subsurface.h"
#include "core/surface/surface_model.h"
#include <set>

namespace mirolux {

const char* word(LightStanding s) {
    switch (s) {
    case LightStanding::gives:
        return "gives";
    case LightStanding::outOfRange:
        return "out of range";
    case LightStanding::outOfCone:
        return "outside its cone";
    case LightStanding::facingAway:
        return "behind the surface";
    case LightStanding::otherLayer:
        return "of other layers";
    case LightStanding::dropped:
        return "dropped by the limit";
    case LightStanding::overflowed:
        return "dropped by a full list";
    case LightStanding::missed:
        return "missed by culling";
    }
    return "";
}

namespace {

bool would_give(LightStanding s) {
    return s == LightStanding::gives || s >= LightStanding::dropped;
}

/// Which surfaces the picture shows, nearest first, with their weights.
std::vector<std::pair<const SurfaceSample*, double>> shown_surfaces(const PixelProbe& probe, const DrawList& list,
                                                                    const Setup& setup, double& behind) {
    const auto opaqueDraws = static_cast<std::uint32_t>(list.opaque.size());
    const SurfaceSample* nearest = nullptr; // of equal depths the first drawn stays
    for (const SurfaceSample& s : probe.samples)
        if (s.draw < opaqueDraws && (!nearest || s.depth > nearest->depth ||
                                     (s.depth == nearest->depth &&
                                      std::pair(s.draw, s.triangle) < std::pair(nearest->draw, nearest->triangle))))
            nearest = &s;
    std::vector<const SurfaceSample*> panes;
    for (const SurfaceSample& s : probe.samples)
        if (s.draw >= opaqueDraws && (!nearest || s.depth > nearest->depth)) panes.push_back(&s);
    const bool peeled = setup.choice("transparency.kind") == "peeled";
    std::sort(
        panes.begin(), panes.end(), [&](const auto* a, const auto* b) { // front to back, as the picture takes them
            return peeled ? a->depth > b->depth : std::pair(a->draw, a->triangle) > std::pair(b->draw, b->triangle);
        });
    if (peeled) {
        panes.erase(
            std::unique(panes.begin(), panes.end(), [](const auto* a, const auto* b) { return a->depth == b->depth; }),
            panes.end());
        const auto layers = static_cast<std::size_t>(setup.whole("transparency.layers"));
        if (panes.size() > layers) panes.resize(layers);
    }
    std::vector<std::pair<const SurfaceSample*, double>> out;
    behind = 1.0;
    for (const SurfaceSample* s : panes) {
        out.emplace_back(s, behind * s->alpha);
        behind *= 1.0 - s->alpha;
    }
    if (nearest) {
        out.emplace_back(nearest, behind);
        behind = 0.0;
    }
    return out;
}

struct Lists {
    std::set<std::uint32_t> taken; // lights that the surface's shader takes up
    bool byGrid = false, full = false, byLimit = false;
};

Lists lists_of(const SurfaceSample& s, bool blended, const Setup& setup, const View& view, const DrawList& list,
               const cull::LightGrid& grid, glm::ivec2 pixel) {
    const PathKind& path = path_kind(setup);
    Lists out;
    if (path.lists && grid.columns > 0) {
        out.byGrid = true;
        for (int l = 0; l < list.directional; ++l)
            out.taken.insert(static_cast<std::uint32_t>(l));
        const cull::GridSettings settings = cull::grid_settings(setup);
        const int slice = cull::slice_of(view.camera.near / std::max(s.depth, 1e-12f), settings);
        const std::size_t cell =
            (std::size_t(slice) * grid.rows + pixel.y / grid.tile) * grid.columns + pixel.x / grid.tile;
        for (std::uint32_t i = grid.offsets[cell]; i < grid.offsets[cell + 1]; ++i)
            out.taken.insert(grid.indices[i]);
        out.full = grid.count(cell) >= static_cast<std::uint32_t>(settings.capacity);
        return out;
    }
    const Draw& draw = blended ? list.blended[s.draw - list.opaque.size()] : list.opaque[s.draw];
    if (path.deferred && !blended) {
        for (std::uint32_t l = 0; l < list.lights.size(); ++l)
            out.taken.insert(l);
        return out;
    }
    out.byLimit = setup.choice("path.kind") == "forward";
    for (std::uint32_t i = 0; i < draw.lightCount; ++i)
        out.taken.insert(list.lightIndices[draw.lightOffset + i]);
    return out;
}

/// Lambert's lobe of light that has been beneath the sample's surface.
glm::dvec3 beneath(const Light& l, const SurfaceSample& s, const brdf::Surface& surface, const glm::dvec3& toEye,
                   const Setup& setup) {
    return beneath_lobe(shading_model(setup), surface, std::max(glm::dot(glm::dvec3(s.normal), toEye), 1e-4)) *
           double(l.diffuseShare);
}

LightTerm term_of(const Light& l, float reach, double fade, const SurfaceSample& s, const brdf::Surface& surface,
                  const glm::dvec3& toEye, const Setup& setup) {
    const RangeWindow window =
        setup.choice("light.window") == "squared" ? RangeWindow::squared : RangeWindow::unsquared;
    LightTerm t;
    t.light = l.id;
    t.name = l.name;
    t.fade = fade;
    t.intensity = glm::dvec3(effective_color(l)) * double(l.intensity);
    glm::dvec3 toLight = -glm::dvec3(l.direction);
    if (l.type != LightType::directional) {
        const glm::dvec3 v = glm::dvec3(l.position) - glm::dvec3(s.position);
        t.metres = glm::length(v);
        toLight = v / std::max(t.metres, 1e-6);
        t.distance = distance_attenuation(t.metres, l.range, reach, window);
        if (l.type == LightType::spot)
            t.cone = cone_attenuation(-glm::dot(toLight, glm::dvec3(l.direction)), std::cos(double(l.innerConeAngle)),
                                      std::cos(double(l.outerConeAngle)));
    }
    t.facing = glm::dot(glm::dvec3(s.normal), toLight);
    const brdf::Lobes lobes = brdf::evaluate(shading_model(setup), surface, setup.number("shading.exponent"),
                                             setup.flag("shading.normalised"), glm::dvec3(s.normal), toLight, toEye);
    t.diffuse = lobes.diffuse * double(l.diffuseShare);
    t.specular = lobes.specular * double(l.specularShare);
    const double toward = std::max(t.facing, 0.0);
    glm::dvec3 ramp(toward); // of diffuse light
    const glm::dvec3 distance(surface.optics.scatterDistance);
    if (distance != glm::dvec3(0.0) && setup.choice("subsurface.kind") == "wrapped") {
        ramp = wrapped_ramp(t.facing, wrap_of(distance, setup.number("subsurface.wrap")));
        t.diffuse = beneath(l, s, surface, toEye, setup);
    }
    t.standing = t.distance <= 0              ? LightStanding::outOfRange
                 : t.cone <= 0                ? LightStanding::outOfCone
                 : brdf::largest(ramp) <= 0.0 ? LightStanding::facingAway
                                              : LightStanding::gives;
    if (t.standing == LightStanding::gives && !s.unlit)
        t.radiance = t.intensity * (t.distance * t.cone) * (t.diffuse * ramp + t.specular * toward);
    return t;
}

/// What comes through the thing from behind, as far as the device found it to.
void shine_through(LightTerm& t, const Light& l, const SurfaceSample& s, const brdf::Surface& surface,
                   const glm::vec2& through, const glm::dvec3& toEye, const Setup& setup) {
    if (through.x < 0 || t.facing >= 0 || t.distance <= 0 || t.cone <= 0 || s.unlit) return;
    t.through = through.x;
    t.passed = through_slab(t.through, glm::dvec3(surface.optics.scatterDistance)) * double(through.y);
    t.radiance += t.intensity * (t.distance * t.cone * -t.facing) * t.passed * beneath(l, s, surface, toEye, setup);
    t.standing = LightStanding::gives;
}

std::string percent(double share) {
    return number_text(share * 100, share < 0.1 ? 2 : 3) + " %";
}

/// The line that says why, from the surface that gives the picture most (or the nearest, where all is dark).
std::string reason_of(const PixelAccount& a, const Setup& setup) {
    const double white = 1.0 / tone::exposure_scale(hand_ev100(setup)), total = luminance(a.sum);
    const std::string level = total < 0.02 * white ? "Dark" : total > 0.9 * white ? "Bright" : "Lit";
    if (a.surfaces.empty()) return "Sky: no surface covers this pixel.";
    const SurfaceAccount* main = &a.surfaces.front();
    for (const SurfaceAccount& s : a.surfaces)
        if (luminance(s.radiance) * s.weight > luminance(main->radiance) * main->weight ||
            (s.weight > 4 * main->weight && total < 0.02 * white))
            main = &s;
    if (main->unlit) return level + ": the surface is unlit and shows its base colour as it is.";
    std::map<LightStanding, int> counts;
    const LightTerm* first = nullptr;
    const LightTerm* lost = nullptr;
    for (const LightTerm& t : main->lights) {
        ++counts[t.standing];
        if (t.standing == LightStanding::gives && !first) first = &t;
        if (t.standing >= LightStanding::dropped && !lost) lost = &t;
    }
    auto count = [&](LightStanding s) { return counts[s]; };
    auto lights = [](int n) { return n == 1 ? std::string("1 light") : std::to_string(n) + " lights"; };
    std::string loss;
    if (lost)
        loss = "; " + lights(count(lost->standing)) + " " + word(lost->standing) + ", first of them " + lost->name;
    const double scattered = luminance(main->air.scattered) * main->weight;
    if (total > 0 && scattered / total > 0.5)
        return level + ": " + percent(scattered / total) + " is light that the air scatters toward the eye; " +
               percent(luminance(main->air.transmittance)) + " of the surface's own light comes through" + loss + ".";
    const double ambient = luminance(glm::dvec3(main->sample.ambient)),
                 emitted = luminance(glm::dvec3(main->sample.emissive)),
                 own = std::max(luminance(main->radiance), 1e-12);
    for (const ChangeTerm& t : main->changes)
        if (const double share = (luminance(t.after) - luminance(t.before)) / own; share > 0.5)
            return level + ": " + percent(share) + " is laid on by " + t.name + ", a cheap light" + loss + ".";
    // What the screen's occlusion takes, if it is most of what could be there; the parts of ambient light are told
    // after.
    const double open = main->sample.screenOcclusion;
    std::string closed;
    if (open < 0.5 && ambient / own > 0.3)
        closed = "; what stands close leaves " + percent(open) + " of the ambient light";
    loss = closed + loss;
    if (const double mirrored = luminance(glm::dvec3(main->sample.mirrored)); mirrored / own > 0.5)
        return level + ": " + percent(mirrored / own) + " is mirrored surroundings" + loss + ".";
    if (const double baked = luminance(glm::dvec3(main->sample.baked)); baked / own > 0.5)
        return level + ": " + percent(baked / own) + " is light from the light map" + loss + ".";
    if (emitted / own > 0.5)
        return level + ": " + percent(emitted / own) + " is the surface's own emission" + loss + ".";
    if (first) {
        const bool sharp = luminance(first->specular) > luminance(first->diffuse);
        std::string text = level + ": " + percent(luminance(first->radiance) / own) + " comes from " + first->name +
                           (sharp ? ", most of it specular" : "");
        if (count(LightStanding::gives) > 1) text += ", and " + lights(count(LightStanding::gives) - 1) + " more";
        if (ambient > luminance(first->radiance)) {
            const int givers = count(LightStanding::gives);
            text = level + ": " + percent(ambient / own) + " is ambient; of " + lights(givers) + " that reach" +
                   (givers == 1 ? "es " : " ") + "it, " + first->name + " gives most, " +
                   percent(luminance(first->radiance) / own);
        }
        return text + loss + ".";
    }
    if (lost) return level + ": no listed light gives anything" + loss + ".";
    if (count(LightStanding::facingAway))
        return level + ": it faces away from the " + lights(count(LightStanding::facingAway)) +
               " in range and cone; ambient only.";
    if (count(LightStanding::outOfCone))
        return level + ": in range of " + lights(count(LightStanding::outOfCone)) +
               ", but outside every cone; ambient only.";
    const LightTerm* nearest = nullptr;
    for (const LightTerm& t : main->lights)
        if (!nearest || t.metres < nearest->metres) nearest = &t;
    return level + ": no light in range; ambient only." +
           (nearest ? " The nearest, " + nearest->name + ", is " + number_text(nearest->metres, 3) + " m away." : "");
}

/// What all techniques put between a point and the eye; sky: and beyond it.
AirShare air_between(const FrameInputs& inputs, const AirQuestion& q) {
    AirShare share;
    for (const Technique* t : all_techniques())
        if (t->air) t->air(inputs, q, share);
    return share;
}

/// What the air before a point shows of each light.
void air_lights(const FrameInputs& inputs, const AirQuestion& q, const PixelProbe& probe, PixelAccount& a) {
    std::vector<glm::dvec3> each(inputs.draws.lights.size(), glm::dvec3(0.0));
    for (const Technique* t : all_techniques())
        if (t->airByLight) t->airByLight(inputs, q, probe, each);
    for (std::size_t i = 0; i < each.size(); ++i)
        if (luminance(each[i]) > 0)
            a.airLights.push_back({inputs.draws.lights[i].id, inputs.draws.lights[i].name, each[i]});
    std::stable_sort(a.airLights.begin(), a.airLights.end(),
                     [](const AirTerm& x, const AirTerm& y) { return luminance(x.radiance) > luminance(y.radiance); });
}

/// Direction from the eye through the middle of a pixel.
glm::dvec3 direction_through(const View& view, const glm::ivec2& pixel) {
    const double aspect = aspect_of(view), ty = std::tan(0.5 * view.camera.fovY);
    const glm::dvec3 inView((2.0 * (pixel.x + 0.5) / view.width - 1.0) * ty * aspect,
                            (1.0 - 2.0 * (pixel.y + 0.5) / view.height) * ty, -1.0);
    return glm::normalize(glm::transpose(glm::dmat3(view_matrix(view.camera))) * inView);
}

/// What is drawn over the pixel, dimmed by the air where it counts.
void draw_over(const FrameInputs& inputs, PixelAccount& a, const glm::ivec2& pixel) {
    PixelRay ray{glm::dvec3(inputs.view.camera.eye), direction_through(inputs.view, pixel),
                 std::numeric_limits<double>::infinity()};
    for (const SurfaceAccount& s : a.surfaces)
        if (!s.blended) ray.metres = glm::length(glm::dvec3(s.sample.position) - ray.origin);
    std::vector<AddedLight> added;
    for (const Technique* t : all_techniques())
        if (t->added) t->added(inputs, ray, added);
    for (const AddedLight& l : added) {
        a.sum = a.sum * l.through + l.radiance;
        const auto light = std::find_if(inputs.draws.lights.begin(), inputs.draws.lights.end(),
                                        [&](const Light& x) { return x.id == l.light; });
        a.beams.push_back({l.light, light->name, l.radiance});
    }
}

} // namespace

PixelAccount pixel_account(const Scene& scene, const Setup& setup, const View& given, const DrawList& list,
                           const PixelProbe& probe, const cull::LightGrid& grid, const cull::LightGrid& transparent) {
    if (scene.is_flat()) {
        PixelAccount a = flat::flat_account(scene, setup, given, list, probe);
        a.stages = probe.stages;
        return a;
    }
    if (scene.is_blocks()) {
        PixelAccount a = blocks::block_account(scene, setup, eye_views(given).front(), probe);
        a.stages = probe.stages;
        return a;
    }
    const View view = eye_views(given).front(); // with stereo the probe is of the left eye
    const FrameInputs inputs{scene, setup, view, list, {0, view.seconds, {}}};
    const SceneAsset& asset = *scene.asset;
    const CapturedProbes probes = captured_probes(scene, setup);
    const std::shared_ptr<const BakedLight> baked = with_baked_light(scene, setup).baked;
    PixelAccount a;
    a.pixel = probe.shown;
    a.picture = glm::dvec3(probe.radiance);
    for (const auto& [sample, weight] : shown_surfaces(probe, list, setup, a.skyWeight)) {
        const bool blended = sample->draw >= list.opaque.size();
        const auto number = static_cast<std::size_t>(
            (blended ? list.blended[sample->draw - list.opaque.size()] : list.opaque[sample->draw]).object);
        const Object& object = scene.objects()[number];
        SurfaceAccount surface;
        surface.object = number < asset.objectNames.size() ? asset.objectNames[number].name : "";
        surface.material = asset.material_of(object).name;
        surface.blended = blended;
        surface.unlit = sample->unlit;
        surface.sample = *sample;
        surface.weight = weight;
        for (const ProbeShare& share : shares_of(probes, glm::dvec3(sample->position)))
            surface.probes.emplace_back(probes.probes[share.probe].probe.name, share.share);
        surface.radiance = glm::dvec3(sample->emissive) + glm::dvec3(sample->ambient) + glm::dvec3(sample->baked);
        surface.air = air_between(inputs, {glm::dvec3(sample->position), false, sample->air});
        const glm::dvec3 toEye = glm::normalize(glm::dvec3(view.camera.eye) - glm::dvec3(sample->position));
        const brdf::Surface shaded{glm::dvec3(sample->baseColor), sample->metallic, sample->roughness,
                                   shown_optics(asset.material_of(object).optics, setup)};
        const Lists lists = lists_of(*sample, blended, setup, view, list, blended ? transparent : grid, probe.pixel);
        for (std::size_t l = 0; l < list.lights.size(); ++l) {
            if (sample->mapped && baked && baked->holds(list.lights[l].id)) continue;
            LightTerm t = term_of(list.lights[l], list.reach[l], list.fade[l], *sample, shaded, toEye, setup);
            for (const Technique* technique : all_techniques())
                if (technique->factors) technique->factors(inputs, *sample, l, t.factors);
            for (const LightFactor& f : t.factors)
                t.radiance *= f.value;
            if (l < sample->lightThrough.size())
                shine_through(t, list.lights[l], *sample, shaded, sample->lightThrough[l], toEye, setup);
            t.listed = !sample->unlit && lists.taken.count(static_cast<std::uint32_t>(l)) > 0;
            surface.listed += t.listed;
            if (t.standing == LightStanding::gives && !sample->unlit) {
                if (t.listed)
                    surface.radiance += t.radiance;
                else
                    t.standing = lists.byLimit ? LightStanding::dropped
                                 : lists.full  ? LightStanding::overflowed
                                               : LightStanding::missed;
            } else
                surface.useless += t.listed;
            surface.lights.push_back(std::move(t));
        }
        std::stable_sort(surface.lights.begin(), surface.lights.end(), [](const LightTerm& x, const LightTerm& y) {
            if (would_give(x.standing) != would_give(y.standing)) return would_give(x.standing);
            return would_give(x.standing) ? luminance(x.radiance) > luminance(y.radiance) : x.name < y.name;
        });
        if (!blended) {
            std::vector<SurfaceChange> changes;
            for (const Technique* technique : all_techniques())
                if (technique->changes) technique->changes(inputs, *sample, changes);
            for (const SurfaceChange& c : changes) {
                surface.changes.push_back({c.light, c.name, surface.radiance, c.change.of(surface.radiance)});
                surface.radiance = surface.changes.back().after;
            }
        }
        a.sum += surface.air.apply(surface.radiance) * weight;
        a.surfaces.push_back(std::move(surface));
    }
    if (!a.surfaces.empty() && a.skyWeight <= 0)
        air_lights(inputs, {glm::dvec3(a.surfaces.back().sample.position)}, probe, a);
    if (a.skyWeight > 0) {
        const glm::dvec3 direction = direction_through(view, probe.pixel);
        const AirQuestion beyond{glm::dvec3(view.camera.eye) + direction, true, probe.airBeforeSky};
        air_lights(inputs, beyond, probe, a);
        a.sky = air_between(inputs, beyond)
                    .apply(sky_model(sky_settings(scene, setup, view))->seen(direction, pixel_angle(view)));
        a.sum += a.sky * a.skyWeight;
    }
    if (!a.surfaces.empty() && !a.surfaces.back().blended) {
        a.spread = glm::dvec3(probe.spread) * a.surfaces.back().weight;
        a.sum += a.spread;
    }
    draw_over(inputs, a, probe.pixel);
    a.stages = probe.stages;
    a.shafts = glm::dvec3(probe.shafts);
    a.sum += a.shafts;
    const glm::dvec3 d = glm::abs(a.sum - a.picture);
    a.difference = std::max({d.x, d.y, d.z}) / std::max({a.picture.x, a.picture.y, a.picture.z, 1e-3});
    a.reason = reason_of(a, setup);
    return a;
}

} // namespace mirolux

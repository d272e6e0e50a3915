#include "core/flat/flat_account.h"
#include "core/base/text.h"
#include "core/flat/flat_stage.h"
#include "core/flat/painted.h"
#include "core/flat/pieces.h"
#include "core/flat/plane_tracer.h"
#include "core/light/luminance.h"
#include <algorithm>

namespace mirolux::flat {

namespace {

/// The scene with a view's lights as the frame takes them, at its time.
Scene as_listed(const Scene& scene, const DrawList& list) {
    Scene out = scene;
    out.lights = list.lights;
    out.motions.clear();
    return out;
}

/// A texel of the lights' target that the pixel is made from, and its share.
struct Tap {
    glm::dvec2 point; // units
    double weight;
};

class Accountant {
public:
    Accountant(const Scene& scene, const Setup& setup, const View& view, const DrawList& list, const PixelProbe& probe)
        : scene_(scene), asset_(*scene.asset), world_(*scene.flat), setup_(setup), view_(view), list_(list),
          probe_(probe), sample_(probe.samples.front()), sheen_(sheen_of(setup)), stage_(stage_view(setup, view)),
          window_(window_of(stage_)), pixel_(stage_pixel(view, stage_, probe.pixel)),
          point_(window_.at(glm::dvec2(pixel_) + 0.5)) {
        for (const Light& l : list.lights)
            profiles_.push_back(profile_of(l, *scene.asset));
        if (shadow_of(setup) != Shadow::none)
            for (const Wall& w : world_.walls)
                if (stops_light(world_, w)) walls_.emplace_back(&w, edges_of({outline_of(world_, w)}));
    }

    PixelAccount account() {
        PixelAccount a;
        a.pixel = probe_.shown;
        a.picture = glm::dvec3(probe_.radiance);
        SurfaceAccount s;
        const auto layer = static_cast<std::size_t>(sample_.draw);
        s.object = name_of(world_, piece_at(world_, asset_, view_, point_, 0, false));
        if (s.object.empty() && layer < world_.layers.size()) s.object = world_.layers[layer].name;
        s.material = layer < world_.layers.size() ? "layer " + world_.layers[layer].name : "";
        s.sample = sample_;
        s.sample.position = glm::vec3(point_, 0.0f);
        s.unlit = sample_.unlit;
        const glm::dvec3 scene(sample_.baseColor), glow(sample_.emissive);
        const bool cut = way_of(setup_) == Way::cut;
        const glm::dvec3 base =
            cut ? glm::dvec3(1.0 - setup_.number("cut.opacity")) : glm::dvec3(setup_.color("flat.ambient"));
        s.sample.ambient = glm::vec3(scene * base);
        if (way_of(setup_) == Way::grade) {
            const Grade grade = grade_of(world_.times, setup_);
            s.sample.ambient = glm::vec3(graded(grade, scene, !s.unlit));
            s.changes.push_back({-1, "the time of day", scene, graded(grade, scene, !s.unlit)});
            if (!s.unlit) (void)light_terms(s, scene, glm::dvec3(0.0), Blend::add);
            s.radiance = lamps_over(grade, scene, s.unlit ? glm::dvec3(0.0) : sum_, !s.unlit) + glow;
            s.changes.push_back(
                {-1, "lamps, " + setup_.choice("grade.mix"), graded(grade, scene, !s.unlit), s.radiance - glow});
        } else if (s.unlit)
            s.radiance = scene + glow;
        else if (way_of(setup_) == Way::cascades)
            s.radiance = travelled(s, scene) + glow;
        else {
            const glm::dvec3 sum =
                light_terms(s, scene, base, way_of(setup_) == Way::mask ? blend_of(setup_) : Blend::add);
            const glm::dvec3 held = glm::clamp(sum, 0.0, 1.0);
            if (glm::dvec3 added = scene * added_; glm::length(added - scene * sum) > 1e-6)
                s.changes.push_back({-1, "joined by " + setup_.choice("mask.blend") + " and held", added, scene * sum});
            if (held != sum) s.changes.push_back({-1, "held to 1", scene * sum, scene * held});
            s.radiance = scene * held + glow;
        }
        a.sum = s.radiance;
        const glm::dvec3 d = glm::abs(a.sum - a.picture);
        a.difference = std::max({d.x, d.y, d.z}) / std::max({a.picture.x, a.picture.y, a.picture.z, 1e-3});
        a.reason = reason_of(s, scene, glow);
        a.surfaces.push_back(std::move(s));
        return a;
    }

private:
    /// What is known of a light before anybody asks what it gives.
    LightTerm term_of(const Light& l) const {
        LightTerm t;
        t.light = l.id;
        t.name = l.name;
        t.intensity = glm::dvec3(effective_color(l)) * double(l.intensity);
        t.metres = l.type == LightType::directional ? 0 : glm::length(point_ - glm::dvec2(l.position));
        t.listed = true;
        return t;
    }
    static void strongest_first(std::vector<LightTerm>& lights) {
        std::stable_sort(lights.begin(), lights.end(), [](const LightTerm& x, const LightTerm& y) {
            return luminance(x.radiance) > luminance(y.radiance);
        });
    }

    /// Light that travels, traced: what each lamp sends straight, what comes from outside, and what walls send and
    /// throw back, by as many paths as need be for a figure.
    glm::dvec3 travelled(SurfaceAccount& s, const glm::dvec3& scene) {
        constexpr int rays_each = 128;
        constexpr std::uint32_t paths = 2048;
        const Scene traced = as_listed(scene_, list_);
        const PlaneTracer tracer(traced, setup_, view_, setup_.whole("cascades2d.bounces"), 1);
        const PlaneTracer::Place place = tracer.place(probe_.pixel.x, probe_.pixel.y);
        const glm::dvec3 ambient(setup_.color("flat.ambient"));
        const PlaneTracer::Straight straight = tracer.straight(place.point, rays_each);
        // Within a wall ambient light takes the place of the border's.
        glm::dvec3 sum = glm::mix(ambient, straight.ambient, place.share);
        s.sample.ambient = glm::vec3(scene * sum);
        for (std::size_t i = 0; i < list_.lights.size(); ++i) {
            const Light& l = list_.lights[i];
            LightTerm t = term_of(l);
            t.facing = 1;
            t.radiance = t.diffuse = scene * straight.lights[i] * place.share;
            t.occluder = straight.walls[i];
            sum += straight.lights[i] * place.share;
            ++s.listed;
            s.useless += luminance(t.radiance) <= 0;
            s.lights.push_back(std::move(t));
        }
        strongest_first(s.lights);
        glm::dvec3 whole(0.0);
        std::uint64_t rays = 0;
        for (std::uint32_t n = 0; n < paths; ++n)
            whole += tracer.sample(probe_.pixel.x, probe_.pixel.y, n, rays) / double(paths);
        s.changes.push_back({-1, "what walls send and throw back", scene * sum, scene * whole});
        if (const glm::dvec3 held = glm::clamp(whole, 0.0, 1.0); held != whole) {
            s.changes.push_back({-1, "held to 1", scene * whole, scene * held});
            whole = held;
        }
        return scene * whole;
    }

    /// The taps of the pixel in a target of 1 / mask.scale.
    std::vector<Tap> taps() const {
        const int scale = mask_scale(setup_);
        if (scale == 1) return {{point_, 1}};
        const glm::dvec2 size((stage_.width + scale - 1) / scale, (stage_.height + scale - 1) / scale);
        // From the bottom, as the target's rows go.
        const glm::dvec2 at =
            glm::dvec2(pixel_.x + 0.5, stage_.height - pixel_.y - 0.5) / glm::dvec2(stage_.width, stage_.height) * size;
        const auto tap = [&](glm::dvec2 texel, double weight) {
            texel = glm::clamp(texel, glm::dvec2(0.0), size - 1.0);
            return Tap{window_.low + (texel + 0.5) / size * (window_.high - window_.low), weight};
        };
        if (setup_.choice("mask.filter") != "smooth") return {tap(glm::floor(at), 1)};
        const glm::dvec2 t = at - 0.5, low = glm::floor(t), f = t - low;
        return {tap(low, (1 - f.x) * (1 - f.y)), tap(low + glm::dvec2(1, 0), f.x * (1 - f.y)),
                tap(low + glm::dvec2(0, 1), (1 - f.x) * f.y), tap(low + 1.0, f.x * f.y)};
    }

    /// 0 where a wall stands between; which one.
    double seen(const Light& l, const glm::dvec2& at, std::string& by) const {
        if (!l.flat.casts || sample_.triangle == 1) return 1;
        const Shadow shadow = shadow_of(setup_);
        const bool tall = world_.seen == Seen::above && (shadow == Shadow::quads || shadow == Shadow::march);
        for (const auto& [wall, edges] : walls_)
            if (!sees(edges, shadow_origin(l, at), at, tall ? over_walls(l, at, wall->height) : 0)) {
                by = wall->name;
                return 0;
            }
        return 1;
    }

    glm::dvec3 light_terms(SurfaceAccount& s, const glm::dvec3& scene, const glm::dvec3& base, Blend blend) {
        const bool normals = setup_.flag("flat.normals");
        const std::vector<Tap> all = taps();
        const std::vector<LightGroup> groups = groups_of(list_.lights);
        std::vector<std::vector<glm::dvec3>> values(all.size());
        for (std::size_t i = 0; i < list_.lights.size(); ++i) {
            const Light& l = list_.lights[i];
            LightTerm t = term_of(l);
            const bool reaches = (layers_of(l, world_) >> sample_.draw & 1u) != 0;
            t.facing = normals ? facing_of(l, sheen_, glm::dvec3(sample_.normal), point_) : 1;
            double shadow = 0, weight = 0;
            glm::dvec3 given(0.0), unshadowed(0.0), plain(0.0); // plain: whatever its normal
            for (std::size_t k = 0; k < all.size(); ++k) {
                glm::dvec3 v = reaches ? light_at(l, profiles_[i], all[k].point) : glm::dvec3(0.0);
                plain += v;
                if (normals) v *= facing_of(l, sheen_, glm::dvec3(sample_.normal), all[k].point);
                const double open = glm::length(v) > 0 ? seen(l, all[k].point, t.occluder) : 1;
                shadow += open * all[k].weight;
                weight += all[k].weight;
                unshadowed += v * all[k].weight;
                given += v * open * all[k].weight;
                values[k].push_back(v * open);
            }
            const double strength = std::max({t.intensity.x, t.intensity.y, t.intensity.z, 1e-12});
            const glm::dvec3 share = unshadowed / strength;
            t.distance = std::max({share.x, share.y, share.z});
            if (shadow < weight) t.factors.push_back({"shadow", glm::dvec3(shadow / weight)});
            if (!reaches)
                t.standing = LightStanding::otherLayer;
            else if (glm::length(plain) <= 0)
                t.standing = l.type == LightType::spot && t.metres < l.range ? LightStanding::outOfCone
                                                                             : LightStanding::outOfRange;
            else if (t.facing <= 0)
                t.standing = LightStanding::facingAway;
            s.useless += luminance(given) <= 0;
            ++s.listed;
            t.radiance = t.diffuse = scene * given;
            s.lights.push_back(std::move(t));
        }
        strongest_first(s.lights);
        glm::dvec3 sum(0.0);
        added_ = base;
        for (std::size_t k = 0; k < all.size(); ++k) {
            sum += joined(groups, values[k], base, blend) * all[k].weight;
            for (const glm::dvec3& v : values[k])
                added_ += v * all[k].weight;
        }
        return sum_ = sum;
    }

    std::string reason_of(const SurfaceAccount& s, const glm::dvec3& scene, const glm::dvec3& glow) const {
        const double total = luminance(s.radiance), sheet = luminance(scene);
        const std::string level = total < 0.02 ? "Dark" : total > 0.85 ? "Bright" : "Lit";
        const auto percent = [](double share) { return number_text(100 * share, 2) + " %"; };
        const bool grades = way_of(setup_) == Way::grade;
        if (s.unlit && !grades) return level + ": its layer is not lit and shows the sheet as it is.";
        if (luminance(glow) > 0.5 * total) return level + ": the sheet glows by itself here.";
        if (sheet < 0.004) return level + ": the sheet itself is black here; no light shows on it.";
        const LightTerm* shadowed = nullptr;
        int givers = 0;
        for (const LightTerm& t : s.lights) {
            if (luminance(t.radiance) > 0)
                ++givers;
            else if (!t.occluder.empty() && (!shadowed || t.distance > shadowed->distance))
                shadowed = &t;
        }
        std::string lost;
        if (shadowed) lost = "; the wall " + shadowed->occluder + " keeps " + shadowed->name + " from it";
        if (givers == 0) {
            if (shadowed) return level + ": no light reaches it" + lost + ".";
            for (const LightTerm& t : s.lights)
                if (t.standing == LightStanding::otherLayer)
                    return level + ": " + t.name + " does not reach this layer, and no other light does.";
            const LightTerm* nearest = nullptr;
            for (const LightTerm& t : s.lights)
                if (!nearest || t.metres < nearest->metres) nearest = &t;
            return level +
                   (way_of(setup_) == Way::cascades ? ": no lamp is seen from here; " : ": no light in range; ") +
                   (grades                            ? "what the time of day leaves."
                    : way_of(setup_) == Way::cut      ? "what darkness leaves."
                    : way_of(setup_) == Way::cascades ? "what walls throw back and what comes from outside."
                                                      : "ambient only.") +
                   (nearest
                        ? " The nearest, " + nearest->name + ", is " + number_text(nearest->metres, 3) + " units away."
                        : "");
        }
        const LightTerm& first = s.lights.front();
        std::string text = level + ": " + first.name + " gives most, " +
                           percent(luminance(first.radiance) / std::max(1e-9, sheet)) +
                           " of what shows the sheet whole";
        if (givers > 1) text += ", and " + std::to_string(givers - 1) + (givers == 2 ? " light more" : " lights more");
        for (const ChangeTerm& c : s.changes)
            if (c.name == "held to 1")
                text +=
                    "; the sum is " + number_text(luminance(c.before) / std::max(1e-9, sheet), 3) + " and is held to 1";
        return text + lost + ".";
    }

    const Scene& scene_;
    const SceneAsset& asset_;
    const World& world_;
    const Setup& setup_;
    const View& view_;
    const DrawList& list_;
    const PixelProbe& probe_;
    const SurfaceSample& sample_;
    const Sheen sheen_;
    const View stage_;
    const Window window_;
    const glm::ivec2 pixel_; // of the stage's
    const glm::dvec2 point_;
    std::vector<Profile> profiles_;
    std::vector<std::pair<const Wall*, std::vector<Edge>>> walls_;
    glm::dvec3 added_{0.0}, sum_{0.0};
};

} // namespace

PixelAccount flat_account(const Scene& scene, const Setup& setup, const View& view, const DrawList& list,
                          const PixelProbe& probe) {
    return Accountant(scene, setup, view, list, probe).account();
}

std::vector<double> plane_contributions(const Scene& scene, const Setup& setup, const View& view,
                                        const DrawList& list) {
    constexpr int across = 32, rays_each = 8;
    View places = view; // a few of its pixels, each for many
    places.width = std::min(view.width, across);
    places.height = std::max(1, view.height * places.width / view.width);
    Setup whole = setup;
    (void)whole.set("flat.pixelScale", std::string("1"));
    const PlaneTracer tracer(as_listed(scene, list), whole, places, 0, 1);
    const Painted sheets = painted(scene, whole, places);
    const double pixels = double(view.width) * view.height / (double(places.width) * places.height);
    std::vector<double> out(list.lights.size(), 0.0);
    for (int y = 0; y < places.height; ++y)
        for (int x = 0; x < places.width; ++x) {
            const PlaneTracer::Place& place = tracer.place(x, y);
            const float* sheet = sheets.scene.pixel(x, y);
            if (place.share <= 0 || !sheets.lit[static_cast<std::size_t>(y * places.width + x)]) continue;
            const PlaneTracer::Straight straight = tracer.straight(place.point, rays_each);
            for (std::size_t i = 0; i < out.size(); ++i)
                out[i] +=
                    pixels * place.share * luminance(straight.lights[i] * glm::dvec3(sheet[0], sheet[1], sheet[2]));
        }
    return out;
}

} // namespace mirolux::flat

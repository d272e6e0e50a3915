#include "gpu/passes/flat_lights.h"
#include "core/flat/plane_source.h"
#include "gpu/passes/surface_pass.h"
#include <set>

namespace mirolux::gpu {

namespace {

/// Profiles below each other in one texture.
struct Atlas {
    std::string key;                                             // of all that it holds
    std::map<std::string, std::pair<int, flat::Profile>> places; // by profile_key: first row
};

Atlas& atlas_of(PassFrame& f) {
    std::any& held = f.store.objects["flat profiles"];
    if (!held.has_value()) held = Atlas();
    return *std::any_cast<Atlas>(&held);
}

/// Makes the atlas anew where the frame's profiles are others than it holds.
void fill_atlas(PassFrame& f) {
    const SceneAsset& asset = f.scene.asset();
    Atlas& atlas = atlas_of(f);
    std::set<std::string> keys;
    for (const Light& l : f.inputs.draws.lights)
        if (std::string key = flat::profile_key(l); !key.empty()) keys.insert(std::move(key));
    std::string all = std::to_string(asset.digest);
    for (const std::string& key : keys)
        all += "\n" + key;
    Texture& texture = f.store.textures["flat profiles"];
    if (all == atlas.key && texture) {
        f.textures["flatProfiles"] = texture.name();
        return;
    }
    atlas = {all, {}};
    int width = 1, height = 0;
    for (const Light& l : f.inputs.draws.lights) {
        const std::string key = flat::profile_key(l);
        if (key.empty() || atlas.places.contains(key)) continue;
        flat::Profile p = flat::profile_of(l, asset);
        width = std::max(width, p.width);
        const int row = height;
        height += p.height;
        atlas.places[key] = {row, std::move(p)};
    }
    texture = make_texture("flat profiles", GL_RGBA32F, width, std::max(1, height));
    for (const auto& [key, place] : atlas.places) {
        const flat::Profile& p = place.second;
        if (!p.empty())
            glTextureSubImage2D(texture.name(), 0, 0, place.first, p.width, p.height, GL_RGB, GL_FLOAT,
                                p.values.data());
    }
    f.textures["flatProfiles"] = texture.name();
}

FlatLightData data_of(const PassFrame& f, const Light& l, const Atlas& atlas) {
    FlatLightData d{};
    d.place = l.position;
    d.height = l.position.z;
    d.range = l.range;
    const glm::vec2 way(l.direction);
    const float length = glm::length(way);
    // Of a directional light all of its direction counts, of a spot its way in the plane.
    d.direction = l.type == LightType::directional ? way : length > 1e-9f ? way / length : glm::vec2(0, -1);
    d.rise = l.direction.z;
    d.cosInner = std::cos(l.innerConeAngle);
    d.cosOuter = std::cos(l.outerConeAngle);
    d.color = effective_color(l) * l.intensity;
    d.kind = l.type == LightType::directional ? 0 : l.type == LightType::spot ? 2 : 1;
    d.falloff = l.flat.falloff;
    d.layers = flat::layers_of(l, *f.inputs.scene.flat);
    d.casts = l.flat.casts ? 1 : 0;
    d.size = l.sourceSize > 0                   ? l.sourceSize
             : l.type == LightType::directional ? float(flat::standard_sun)
                                                : float(flat::standard_source);
    const glm::vec2 right(std::cos(l.flat.turn), std::sin(l.flat.turn));
    if (l.type != LightType::point) return d;
    if (l.flat.shape == FlatShape::line) {
        d.kind = 3;
        d.axis = right * (0.5f * l.flat.length);
    } else if (l.flat.shape != FlatShape::round) {
        d.kind = 4;
        d.axis = right;
        d.extent = glm::vec2(1.0f);
        if (const auto it = atlas.places.find(flat::profile_key(l)); it != atlas.places.end()) {
            const auto& [row, profile] = it->second;
            d.profile = {0, row, profile.width, profile.height};
            // Pictures of one sheet differ in size: each light has its own.
            d.extent = l.flat.shape == FlatShape::picture && profile.height > 0
                           ? 0.5f * l.flat.size *
                                 glm::vec2(static_cast<float>(profile.width) / static_cast<float>(profile.height), 1.0f)
                           : glm::vec2(profile.half);
            if (profile.empty()) d.color = glm::vec3(0.0f);
        }
    }
    return d;
}

/// Fans of lights that stand still, as they were made.
struct KeptFan {
    flat::WorldPtr world;
    Light light;
    std::vector<glm::vec2> points;
};
using KeptFans = std::map<int, KeptFan>; // by Light::id

/// What a kept fan depends on of its light.
bool same_fan(const Light& a, const Light& b) {
    return a.position == b.position && a.range == b.range && a.type == b.type && a.flat == b.flat;
}

bool has_quads(const PassFrame& f) {
    return f.plan.resource("quads' marks") != nullptr;
}

std::vector<flat::Edge> edges_of(const PassFrame& f) {
    return flat::shadow_of(f.inputs.setup) == flat::Shadow::polygon
               ? flat::edges_of(flat::outlines_of(*f.inputs.scene.flat))
               : std::vector<flat::Edge>{};
}

} // namespace

std::string fans_buffer(const PassFrame& f) {
    return "flat fans " + std::to_string(f.eye);
}

const FlatFans& flat_fans(const PassFrame& f) {
    return *std::any_cast<FlatFans>(&f.store.objects.at(fans_buffer(f)));
}

std::vector<glm::vec2> fan_points(const PassFrame& f, const std::vector<flat::Edge>& edges, int light) {
    const Light& l = f.inputs.draws.lights[static_cast<std::size_t>(light)];
    flat::Window window = flat::window_of(f.inputs.view);
    if (flat::keeps_shadow(f.inputs, l)) { // wherever the camera goes
        window.low = glm::dvec2(-1e30);
        window.high = glm::dvec2(1e30);
    }
    return flat::fan_of(edges, l, *f.inputs.scene.flat, window);
}

void provide_flat_lights(PassFrame& f) {
    fill_atlas(f);
    const std::vector<Light>& lights = f.inputs.draws.lights;
    std::vector<FlatLightData> data;
    for (std::size_t i = 0; i < lights.size(); ++i)
        data.push_back(data_of(f, lights[i], atlas_of(f)));
    f.upload("FlatLightBuffer", data.data(), data.size() * sizeof(FlatLightData));

    std::any& keptAny = f.store.objects["kept flat fans"];
    if (!keptAny.has_value()) keptAny = KeptFans();
    KeptFans& kept = *std::any_cast<KeptFans>(&keptAny);
    const std::vector<flat::Edge> edges = edges_of(f);
    const bool lit_anyway = (!edges.empty() || has_quads(f)) && flat::lights_casters(*f.inputs.scene.flat);
    const bool everywhere = edges.empty() && !has_quads(f) && f.inputs.setup.choice("mask.area") == "screen";
    FlatFans fans;
    for (const flat::LightGroup& g : flat::groups_of(lights)) {
        FanGroup group{g.most, static_cast<int>(fans.points.size()), 0};
        for (const int i : g.lights) {
            if (lit_anyway && lights[static_cast<std::size_t>(i)].flat.casts) {
                FanSlot whole{i, static_cast<int>(fans.points.size()), 0, false, true};
                for (const glm::vec2& p : flat::fan_of({}, lights[static_cast<std::size_t>(i)], *f.inputs.scene.flat,
                                                       flat::window_of(f.inputs.view)))
                    fans.points.push_back({p, static_cast<std::uint32_t>(i), 1});
                whole.count = static_cast<int>(fans.points.size()) - whole.first;
                fans.slots.push_back(whole);
            }
            const Light& l = lights[static_cast<std::size_t>(i)];
            FanSlot slot{i, static_cast<int>(fans.points.size()), 0,
                         !edges.empty() && l.flat.casts && !flat::keeps_shadow(f.inputs, l)};
            std::vector<glm::vec2> made;
            if (everywhere) {
                const flat::Window w = flat::window_of(f.inputs.view);
                const glm::vec2 low(w.low), high(w.high), across(high.x, low.y), up(low.x, high.y);
                made = {low, across, high, low, high, up};
                slot.moves = false;
            } else if (edges.empty() || slot.moves)
                made = fan_points(f, edges, i);
            else if (KeptFan& k = kept[l.id]; k.world != f.inputs.scene.flat || !same_fan(k.light, l))
                made = (k = {f.inputs.scene.flat, l, fan_points(f, edges, i)}).points;
            else
                made = k.points;
            for (const glm::vec2& p : made)
                fans.points.push_back({p, static_cast<std::uint32_t>(i), 0});
            slot.count = static_cast<int>(made.size());
            fans.slots.push_back(slot);
        }
        group.count = static_cast<int>(fans.points.size()) - group.first;
        fans.groups.push_back(group);
    }
    f.upload("FlatFanBuffer", fans.points.data(), fans.points.size() * sizeof(FanPointData));
    f.store.objects[fans_buffer(f)] = std::move(fans);
}

std::vector<std::string> flat_defines(const PassFrame& f) {
    std::vector<std::string> out;
    if (f.plan.resource("flat surface")) out.push_back("SURFACE");
    if (f.plan.resource("flat glow")) out.push_back("GLOW");
    const flat::Shadow shadow = flat::shadow_of(f.inputs.setup);
    if ((shadow == flat::Shadow::polygon || shadow == flat::Shadow::quads) &&
        flat::lights_casters(*f.inputs.scene.flat))
        out.push_back("LIT_ANYWAY");
    return out;
}

namespace {

/// A way's lights, ready to be drawn.
struct LightsDrawn {
    Stage stage, plain;
    PassState state, limit; // limit: holds what a group has lifted
    glm::vec3 base{0.0f};
    bool subtract = false;
    // Shadow quads: no marks where there are none.
    std::optional<Stage> marks{};
    int edges = 0;
};

/// One light's points past the walls, in a buffer of their own: what layers show of it, whatever casts its shadows.
std::vector<FanPointData> seen_points(const PassFrame& f, int light) {
    const flat::World& world = *f.inputs.scene.flat;
    const Light& l = f.inputs.draws.lights[static_cast<std::size_t>(light)];
    const flat::Window window = flat::window_of(f.inputs.view);
    std::vector<FanPointData> points;
    for (const glm::vec2& p : flat::fan_of(flat::edges_of(flat::outlines_of(world)), l, world, window))
        points.push_back({p, static_cast<std::uint32_t>(light), 0});
    if (flat::lights_casters(world) && l.flat.casts)
        for (const glm::vec2& p : flat::fan_of({}, l, world, window))
            points.push_back({p, static_cast<std::uint32_t>(light), 1});
    return points;
}

/// Lights of a group one by one: its quads leave a mark of its own, and it is drawn where they have left none.
void draw_marked(const PassFrame& f, const LightsDrawn& d, const FanGroup& group, int& mark, Work& drawn) {
    for (const FanSlot& slot : flat_fans(f).slots) {
        if (slot.first < group.first || slot.first >= group.first + group.count || slot.count == 0) continue;
        const Light& l = f.inputs.draws.lights[static_cast<std::size_t>(slot.light)];
        PassState state = d.state;
        if (l.flat.casts && !slot.whole) {
            if (++mark > 255) {
                mark = 1;
                const GLint zero = 0;
                glClearNamedFramebufferiv(state.framebuffer, GL_STENCIL, 0, &zero);
            }
            PassState marking = state;
            marking.colorWrite = false;
            marking.blend = {};
            marking.stencil = {true, GL_ALWAYS, mark, GL_KEEP, GL_KEEP, GL_REPLACE, GL_KEEP};
            marking.apply();
            d.marks->use();
            glUniform1i(d.marks->uniform("light"), slot.light);
            glDrawArrays(GL_TRIANGLES, 0, 6 * d.edges);
            drawn += Work::drawing(1, 2 * static_cast<std::uint64_t>(d.edges));
            drawn.add("quadsMarked", static_cast<std::uint64_t>(d.edges));
            state.stencil = {true, GL_NOTEQUAL, mark, GL_KEEP, GL_KEEP, GL_KEEP, GL_KEEP};
        }
        state.apply();
        d.stage.use();
        glDrawArrays(GL_TRIANGLES, slot.first, slot.count);
        drawn += Work::drawing(1, static_cast<std::uint64_t>(slot.count) / 3);
    }
}

void draw_groups(PassFrame& f, const LightsDrawn& d) {
    d.state.apply();
    const float base[4] = {d.base.r, d.base.g, d.base.b, 1.0f};
    glClearNamedFramebufferfv(d.state.framebuffer, GL_COLOR, 0, base);
    const GLint zero = 0;
    if (d.marks) glClearNamedFramebufferiv(d.state.framebuffer, GL_STENCIL, 0, &zero);
    Work drawn;
    int mark = 0;
    for (const FanGroup& g : flat_fans(f).groups) {
        glBindVertexArray(f.emptyVertexArray);
        if (d.marks)
            draw_marked(f, d, g, mark, drawn);
        else if (g.count > 0) {
            d.state.apply();
            d.stage.use();
            glDrawArrays(GL_TRIANGLES, g.first, g.count);
            drawn += Work::drawing(1, static_cast<std::uint64_t>(g.count) / 3);
        }
        if (g.most > 0) {
            const float most = static_cast<float>(g.most);
            const glm::vec3 held = d.subtract ? glm::min(d.base, 1.0f - most) : glm::max(d.base, most);
            glProgramUniform3f(d.plain.name(), d.plain.uniform("value"), held.r, held.g, held.b);
            f.draw_screen(d.plain, d.limit);
            drawn += Work::drawing(1, 1);
        }
    }
    f.drawn = drawn;
}

/// Walls' edges in a buffer, and the program that marks what lies behind them.
Result<void> add_marks(PassFrame& f, LightsDrawn& d) {
    std::vector<TallEdgeData> edges;
    for (const flat::TallEdge& e : flat::tall_edges_of(*f.inputs.scene.flat))
        edges.push_back({glm::vec2(e.edge.a), glm::vec2(e.edge.b), e.height, {}});
    d.edges = static_cast<int>(edges.size());
    f.upload("TallEdgeBuffer", edges.data(), edges.size() * sizeof(TallEdgeData));
    auto marks = f.stage({{GL_VERTEX_SHADER, "flat_stage/quads_vertex.glsl", ""},
                          {GL_FRAGMENT_SHADER, "flat_stage/quads_fragment.glsl", ""}},
                         {});
    if (!marks) return tl::unexpected(marks.error());
    d.marks = std::move(*marks);
    return {};
}

Result<Stage> lights_stage(const PassFrame& f, const JoinedLights& how, int width, int height) {
    std::vector<std::string> defines = flat_defines(f);
    if (how.blend == flat::Blend::screen) defines.push_back("CLAMPED");
    auto stage = f.stage({{GL_VERTEX_SHADER, "flat_stage/lights_vertex.glsl", ""},
                          {GL_FRAGMENT_SHADER, "flat_stage/lights_fragment.glsl", ""}},
                         defines);
    if (stage) glProgramUniform2i(stage->name(), stage->uniform("maskSize"), width, height);
    return stage;
}

} // namespace

Result<Commands> prepare_one_light(PassFrame& f, const OneLight& how) {
    PassState state;
    state.framebuffer = how.framebuffer;
    state.width = how.width;
    state.height = how.height;
    state.depthTest = state.depthWrite = false;
    state.blend = PassState::adding();
    std::vector<FanPointData> own;
    const BufferRange frame = f.buffers["FlatFanBuffer"];
    const bool alone = how.light >= 0 && has_quads(f);
    if (alone) {
        own = seen_points(f, how.light);
        Buffer& buffer = f.store.buffer("one flat fan");
        buffer.upload(own.data(), own.size() * sizeof(FanPointData));
        f.buffers["FlatFanBuffer"] = {buffer.name(), 0, 0};
    }
    auto stage = lights_stage(f, {}, how.width, how.height);
    f.buffers["FlatFanBuffer"] = frame;
    if (!stage) return tl::unexpected(stage.error());
    return [&f, stage = std::move(*stage), state, alone, points = static_cast<GLsizei>(own.size()), light = how.light] {
        state.apply();
        const float black[4] = {0, 0, 0, 1};
        glClearNamedFramebufferfv(state.framebuffer, GL_COLOR, 0, black);
        stage.use();
        glBindVertexArray(f.emptyVertexArray);
        if (alone) return glDrawArrays(GL_TRIANGLES, 0, points);
        for (const FanSlot& slot : flat_fans(f).slots)
            if (slot.light == light) glDrawArrays(GL_TRIANGLES, slot.first, slot.count);
    };
}

Result<Commands> prepare_flat_lights(PassFrame& f, const JoinedLights& how) {
    const PlannedResource& target = *f.plan.resource(how.target);
    auto stage = lights_stage(f, how, target.width, target.height);
    if (!stage) return tl::unexpected(stage.error());
    auto plain = f.screen_stage("flat_stage/plain.glsl", {});
    if (!plain) return tl::unexpected(plain.error());
    auto state = f.state({how.target}, has_quads(f) ? "quads' marks" : "");
    if (!state) return tl::unexpected(state.error());
    state->depthTest = state->depthWrite = false;
    PassState limit = *state;
    limit.blend = {true, GL_ONE, GL_ONE, GL_ONE, GL_ONE, static_cast<GLenum>(how.subtract ? GL_MAX : GL_MIN)};
    state->blend = PassState::adding();
    if (how.subtract) state->blend.equation = GL_FUNC_REVERSE_SUBTRACT;
    if (how.blend == flat::Blend::screen) state->blend.target = GL_ONE_MINUS_SRC_COLOR;
    if (how.blend == flat::Blend::largest) state->blend.equation = GL_MAX;
    LightsDrawn drawn{std::move(*stage), std::move(*plain), *state, limit, how.base, how.subtract};
    if (has_quads(f))
        if (auto ok = add_marks(f, drawn); !ok) return tl::unexpected(ok.error());
    return [&f, drawn = std::move(drawn)] { draw_groups(f, drawn); };
}

Result<Commands> prepare_flat_shown(PassFrame& f, const std::string& fragment, const std::string& target) {
    std::vector<std::string> defines = flat_defines(f);
    if (target != "scene") std::erase(defines, "GLOW"); // that is added last
    auto stage = f.screen_stage(fragment, defines);
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state({target});
    if (!state) return tl::unexpected(state.error());
    state->depthTest = state->depthWrite = false;
    return [&f, stage = std::move(*stage), state = *state] { f.draw_screen(stage, state); };
}

} // namespace mirolux::gpu

#include "core/shadow/shadow_maps.h"
#include "core/base/text.h"
#include "core/motion/skinning.h"
#include "core/shadow/shadow_mask.h"
#include "gpu/frame/command_list.h"
#include "gpu/passes/shadow_atlas_memory.h"
#include "gpu/passes/skinning.h"
#include "gpu/passes/surface_pass.h"
#include <algorithm>
#include <chrono>
#include <set>

namespace mirolux::gpu {

std::shared_ptr<AtlasMemory> atlas_memory(PassFrame& f) {
    std::any& kept = f.store.objects["shadow atlas"];
    if (!kept.has_value()) kept = std::make_shared<AtlasMemory>();
    auto memory = std::any_cast<std::shared_ptr<AtlasMemory>>(kept);
    const std::uint64_t serial = f.resources.serial(shadow_atlas_resource);
    const std::uint64_t cubes = f.plan.resource(shadow_cubes_resource) ? f.resources.serial(shadow_cubes_resource) : 0;
    if (memory->serial != serial || memory->cubes != cubes) {
        memory->cubes = cubes;
        memory->held.clear();
        memory->casters.clear();
        memory->serial = serial;
    }
    return memory;
}

namespace {

/// What every map draws from: the casting objects as instances.
struct Casters {
    std::vector<InstanceData> data;
    std::vector<std::uint32_t> place; // by object

    Casters(const Scene& scene, const ShadowSet& set) : place(scene.objects().size(), ~0u) {
        for (const ShadowMap& m : set.maps)
            for (const int object : m.casters) {
                std::uint32_t& p = place[static_cast<std::size_t>(object)];
                if (p != ~0u) continue;
                p = static_cast<std::uint32_t>(data.size());
                const Object& o = scene.objects()[static_cast<std::size_t>(object)];
                data.push_back({glm::mat4x3(o.transform), glm::mat3(1.0f),
                                static_cast<std::uint32_t>(scene.asset->material_index(o)), body_number(o)});
            }
    }
};

enum class Cut { solid, masked, dithered };

/// Commands of one map that share a program, and where they matter the material's textures.
struct CasterBatch {
    Cut cut = Cut::solid;
    int side = 0; // of the surface that casts: 0 both, 1 front, -1 front of mirrored objects
    int material = -1;
    std::size_t first = 0, count = 0; // into the command buffer
};

/// Casters that are drawn one after the other.
struct CasterRun {
    std::vector<CasterBatch> batches;
    std::uint64_t draws = 0, triangles = 0;
    Work bending{};
};

struct DrawnMap {
    int light = -1; // into DrawList::lights
    int layer = -1; // of the cubes; -1: in the atlas
    MapSquare place{};
    std::uint64_t digest = 0; // of all that its depths depend on
    std::array<glm::vec4, 7> texels{};
    glm::mat4 toMap{1.0f};
    bool flattened = false;
    glm::vec2 firstTexel{0.0f}; // shaders/shadow_maps/fragment.glsl
    CasterRun all{};
    CasterSplit split{};         // where still casters are kept apart
    CasterRun still{}, moving{}; // of a split map
};

/// Of a cascade the number of its lower left texel in the light's grid, less its place in the atlas; from 0 on.
glm::vec2 first_texel(const ShadowMap& m) {
    if (m.perspective) return glm::vec2(-m.x, -m.y);
    const glm::dvec2 number = glm::round(glm::dvec2(m.cascade.corner) / m.cascade.texel);
    return glm::vec2(number - 1024.0 * glm::floor(number / 1024.0)) - glm::vec2(m.x, m.y);
}

Cut cut_of(const Material& m, BlendedCasters blended) {
    if (m.alphaMode == AlphaMode::mask) return Cut::masked;
    if (m.alphaMode == AlphaMode::blend && blended == BlendedCasters::dithered) return Cut::dithered;
    return Cut::solid;
}

/// Sorts casters of a map into batches and appends their commands.
CasterRun run_of(const PassFrame& f, std::vector<int> order, const Casters& casters, BlendedCasters blended,
                 CommandList& list) {
    const SceneAsset& asset = f.scene.asset();
    const std::vector<Object>& objects = f.inputs.scene.objects();
    const auto key = [&](int object) {
        const std::size_t material = asset.material_index(objects[static_cast<std::size_t>(object)]);
        const Cut cut = cut_of(asset.materials[material], blended);
        const Object& o = objects[static_cast<std::size_t>(object)];
        const int side = o.casts != Casting::front || asset.materials[material].doubleSided ? 0 : o.mirrored ? -1 : 1;
        return std::tuple(static_cast<int>(cut), side, cut == Cut::solid ? -1 : static_cast<int>(material));
    };
    std::stable_sort(order.begin(), order.end(), [&](int a, int b) { return key(a) < key(b); });
    CasterRun run;
    std::vector<CasterBatch>& out = run.batches;
    for (const int object : order) {
        const auto& slice = f.scene.slice(objects[static_cast<std::size_t>(object)].primitive);
        const InstanceData& instance = casters.data[casters.place[static_cast<std::size_t>(object)]];
        run.triangles += slice.count / 3;
        add_bending(f.inputs, object, run.bending);
        const auto [cut, side, material] = key(object);
        const bool goesOn = !out.empty() && static_cast<int>(out.back().cut) == cut && out.back().side == side &&
                            out.back().material == material;
        if (goesOn && list.extend(slice, instance)) continue;
        list.add(slice, instance);
        ++run.draws;
        if (!goesOn) out.push_back({static_cast<Cut>(cut), side, material, list.commands.size() - 1, 0});
        ++out.back().count;
    }
    return run;
}

/// shaders/shadow_maps/lookup.glsl: seven texels a map.
std::array<glm::vec4, 7> texels_of(const ShadowMap& m) {
    std::array<glm::vec4, 7> t;
    for (int c = 0; c < 4; ++c)
        t[static_cast<std::size_t>(c)] = glm::vec4(m.toMap[c]);
    t[4] = {m.x, m.y, m.size, m.layer < 0 ? 0 : m.layer / 6 + 1};
    t[5] = {m.perspective ? m.near : m.range, m.tangent, m.perspective ? 1 : 0, m.reach};
    t[6] = {m.cascade.to, m.cascade.blendFrom, 0, 0};
    return t;
}

/// Three texels a light, then those of the maps.
std::vector<glm::vec4> texels_of(const FrameInputs& in, const ShadowSet& set) {
    const MaskLayout mask = mask_layout(in, set);
    const std::size_t lights = in.draws.lights.size(), start = 3 * lights;
    std::vector<glm::vec4> out(start + 7 * set.maps.size(), glm::vec4(0));
    for (const ShadowedLight& s : set.lights) {
        const Light& l = in.draws.lights[static_cast<std::size_t>(s.light)];
        const double source =
            l.type == LightType::directional ? 2 * std::tan(0.5 * double(l.sourceSize)) : double(l.sourceSize);
        glm::vec4* t = &out[3 * static_cast<std::size_t>(s.light)];
        t[0] = {static_cast<float>(start + 7 * static_cast<std::size_t>(s.first)), s.count, static_cast<int>(s.kind),
                static_cast<int>(s.look.filter)};
        t[1] = {s.look.opacity, source, s.look.bias, s.look.slopeBias};
        t[2] = {s.look.normalOffset, mask.channel_of(s.light) + 1, 0, 0};
    }
    for (std::size_t i = 0; i < set.maps.size(); ++i) {
        const std::array<glm::vec4, 7> t = texels_of(set.maps[i]);
        std::copy(t.begin(), t.end(), out.begin() + static_cast<std::ptrdiff_t>(start + 7 * i));
    }
    return out;
}

struct Stages {
    Stage of[3]; // by Cut
};

Result<Stages> stages_of(const PassFrame& f, const std::vector<DrawnMap>& maps) {
    Stages out;
    bool used[3] = {};
    for (const DrawnMap& m : maps)
        for (const CasterBatch& b : m.all.batches)
            used[static_cast<int>(b.cut)] = true;
    std::vector<std::string> defines[3] = {{}, {"ALPHA_MASK"}, {"DITHERED"}};
    if (skinning_of(f.inputs.scene, f.inputs.setup) == Skinning::vertex)
        for (auto& d : defines)
            d.emplace_back("BEND");
    for (int cut = 0; cut < 3; ++cut) {
        if (!used[cut]) continue;
        auto stage = f.stage(
            {{GL_VERTEX_SHADER, "shadow_maps/vertex.glsl", ""}, {GL_FRAGMENT_SHADER, "shadow_maps/fragment.glsl", ""}},
            defines[cut]);
        if (!stage) return tl::unexpected(stage.error());
        out.of[cut] = std::move(*stage);
    }
    return out;
}

/// Of the matrix, the place and how things cast in it.
std::uint64_t digest_of(const PassFrame& f, const ShadowMap& m, BlendedCasters blended) {
    Digest d;
    d.add(&m.toMap, sizeof m.toMap);
    d.add(&m.size, sizeof m.size);
    d.add(&blended, sizeof blended);
    const SceneAsset* asset = f.inputs.scene.asset.get();
    d.add(&asset->digest, sizeof asset->digest);
    return d.value;
}

/// By object, as they are gathered.
std::vector<CasterState> states_of(const PassFrame& f, const ShadowMap& m) {
    std::vector<CasterState> out;
    for (const int object : m.casters) {
        const Object& o = f.inputs.scene.objects()[static_cast<std::size_t>(object)];
        Digest d;
        d.add(&o.transform, sizeof o.transform);
        d.add(&o.shape, sizeof o.shape);
        d.add(&o.casts, sizeof o.casts);
        out.push_back({object, d.value, f.scene.slice(o.primitive).count / 3});
    }
    return out;
}

std::uint64_t digest_of(std::uint64_t map, const std::vector<CasterState>& casters) {
    Digest d;
    d.value = map;
    for (const CasterState& c : casters) {
        d.add(&c.object, sizeof c.object);
        d.add(&c.state, sizeof c.state);
    }
    return d.value;
}

/// Draws casters into the map's place of what is bound.
void draw_casters(const PassFrame& f, const DrawnMap& m, const CasterRun& run, bool clear, const Stages& stages) {
    const int size = m.place[2], x = m.layer < 0 ? m.place[0] : 0, y = m.layer < 0 ? m.place[1] : 0;
    glViewport(x, y, size, size);
    glScissor(x, y, size, size);
    const float zero = 0;
    if (clear) glClearBufferfv(GL_DEPTH, 0, &zero);
    if (m.flattened)
        glEnable(GL_DEPTH_CLAMP); // what lies nearer to the light than the map reaches falls on its near end
    else
        glDisable(GL_DEPTH_CLAMP);
    Cut bound{};
    bool any = false;
    for (const CasterBatch& b : run.batches) {
        const Stage& s = stages.of[static_cast<int>(b.cut)];
        if (!any || bound != b.cut) {
            s.use();
            glProgramUniformMatrix4fv(s.name(), s.uniform("toMap"), 1, GL_FALSE, &m.toMap[0].x);
            glProgramUniform2f(s.name(), s.uniform("firstTexel"), m.firstTexel.x, m.firstTexel.y);
        }
        any = true;
        bound = b.cut;
        if (b.side == 0)
            glDisable(GL_CULL_FACE);
        else {
            glEnable(GL_CULL_FACE);
            glCullFace(GL_BACK);
            glFrontFace(b.side > 0 ? GL_CCW : GL_CW);
        }
        if (b.material >= 0) f.scene.bind_textures(b.material, s.bindings.materialUnits);
        glMultiDrawElementsIndirect(GL_TRIANGLES, GL_UNSIGNED_INT,
                                    reinterpret_cast<const void*>(b.first * sizeof(DrawCommand)),
                                    static_cast<GLsizei>(b.count), 0);
    }
}

/// What one run of the pass has to work with.
struct Drawing {
    Stages stages;
    GLuint cubes = 0, cubeTarget = 0; // their texture, and the framebuffer that takes a face at a time
    PassState state, still;           // of the atlas, and of the one that holds still casters alone
    std::vector<MapSquare> places;    // of all maps, in the order of the set
    GLuint buffer = 0, instances = 0, atlas = 0, stillAtlas = 0; // stillAtlas: 0: none is kept
    std::shared_ptr<AtlasMemory> memory;
    ShadowUpdate update = ShadowUpdate::always;
};

/// Draws what the map needs, and says how much that was.
void draw_map(const PassFrame& f, const DrawnMap& m, const Drawing& d, Work& work) {
    const auto [x, y, size] = m.place;
    const std::uint64_t texels = std::uint64_t(size) * static_cast<std::uint64_t>(size);
    const auto draw = [&](const CasterRun& run, bool clear) {
        draw_casters(f, m, run, clear, d.stages);
        work += Work::drawing(run.draws, run.triangles);
        work += run.bending;
        work.add("shadowTriangles", run.triangles);
        if (clear) work.add("shadowCleared", texels);
    };
    if (m.layer >= 0) {
        glNamedFramebufferTextureLayer(d.cubeTarget, GL_DEPTH_ATTACHMENT, d.cubes, 0, m.layer);
        glBindFramebuffer(GL_DRAW_FRAMEBUFFER, d.cubeTarget);
        draw(m.all, true);
        glBindFramebuffer(GL_DRAW_FRAMEBUFFER, d.state.framebuffer);
        return;
    }
    if (!m.split.apart) return draw(m.all, true);
    if (!m.split.keepsStill) {
        glBindFramebuffer(GL_DRAW_FRAMEBUFFER, d.still.framebuffer);
        draw(m.still, true);
        glBindFramebuffer(GL_DRAW_FRAMEBUFFER, d.state.framebuffer);
    }
    glCopyImageSubData(d.stillAtlas, GL_TEXTURE_2D, 0, x, y, 0, d.atlas, GL_TEXTURE_2D, 0, x, y, 0, size, size, 1);
    work.add("shadowCopied", texels);
    draw(m.moving, false);
}

/// Maps that are drawn in this frame of a sequence: those that were never, and of the others the oldest ones.
std::set<MapSquare> whose_turn(const PassFrame& f, const AtlasMemory& memory, const ShadowSet& set) {
    std::set<MapSquare> out;
    std::vector<std::pair<std::uint64_t, MapSquare>> waiting;
    for (const ShadowMap& m : set.maps) {
        const MapSquare place = square_of(m);
        const auto it = memory.held.find(place);
        if (it == memory.held.end() || f.inputs.time.index == 0)
            out.insert(place);
        else
            waiting.emplace_back(it->second.frame, place);
    }
    std::sort(waiting.begin(), waiting.end());
    const auto most = static_cast<std::size_t>(f.inputs.setup.whole("shadow.turn"));
    for (std::size_t i = 0; i < std::min(most, waiting.size()); ++i)
        out.insert(waiting[i].second);
    return out;
}

/// Frames since each map was drawn; -1: it never was.
std::vector<double> ages(const AtlasMemory& memory, const std::vector<MapSquare>& places, std::uint64_t frame) {
    std::vector<double> out;
    for (const MapSquare& place : places) {
        const auto it = memory.held.find(place);
        out.push_back(it == memory.held.end() ? -1.0 : static_cast<double>(frame - std::min(frame, it->second.frame)));
    }
    return out;
}

/// The maps of a pass, with all that is drawn into each.
std::vector<DrawnMap> drawn_maps(const PassFrame& f, const ShadowSet& set, const Casters& casters, bool sun,
                                 const AtlasMemory* apart, CommandList& list) {
    const BlendedCasters blended = blended_casters(f.inputs.setup);
    std::vector<DrawnMap> maps;
    for (const ShadowedLight& l : set.lights) {
        if ((l.kind == MapKind::cascades) != sun) continue;
        for (int i = l.first; i < l.first + l.count; ++i) {
            const ShadowMap& m = set.maps[static_cast<std::size_t>(i)];
            const std::uint64_t own = digest_of(f, m, blended);
            std::vector<CasterState> states = states_of(f, m);
            DrawnMap map{l.light,
                         m.layer,
                         square_of(m),
                         digest_of(own, states),
                         texels_of(m),
                         glm::mat4(m.toMap),
                         !m.perspective,
                         first_texel(m),
                         run_of(f, m.casters, casters, blended, list)};
            if (apart && m.layer < 0) {
                const auto before = apart->casters.find(map.place);
                map.split = split_casters(before == apart->casters.end() ? CasterHistory{} : before->second, own,
                                          std::move(states));
                std::vector<int> still, moving;
                for (const int object : m.casters)
                    (std::binary_search(map.split.moving.begin(), map.split.moving.end(), object) ? moving : still)
                        .push_back(object);
                if (map.split.apart) {
                    map.still = run_of(f, still, casters, blended, list);
                    map.moving = run_of(f, moving, casters, blended, list);
                }
            }
            maps.push_back(std::move(map));
        }
    }
    return maps;
}

Result<Commands> prepare_shadow_maps(PassFrame& f, const PlannedPass& pass) {
    const ShadowSet set = shadow_set_of(f);
    const Casters casters(f.inputs.scene, set);
    const bool timed = f.instrument == Instrument::ledger; // all maps whole, to tell what each light's take
    Drawing d;
    d.memory = atlas_memory(f);
    d.update = shadow_update(f.inputs.setup);
    for (const ShadowMap& map : set.maps)
        d.places.push_back(square_of(map));
    const bool apart = f.plan.resource(still_shadows_resource) && !timed;
    CommandList list;
    std::vector<DrawnMap> maps =
        drawn_maps(f, set, casters, pass.name == "sun shadow", apart ? d.memory.get() : nullptr, list);
    Buffer& buffer = f.store.buffer("commands of " + pass.name);
    buffer.upload(list.commands.data(), list.commands.size() * sizeof(DrawCommand));
    d.buffer = buffer.name();
    Buffer& instances = f.store.buffer("casters of " + pass.name);
    instances.upload(list.instances.data(), list.instances.size() * sizeof(InstanceData));
    d.instances = instances.name();
    auto stages = stages_of(f, maps);
    if (!stages) return tl::unexpected(stages.error());
    d.stages = std::move(*stages);
    const auto state_of = [&](const char* resource) -> Result<PassState> {
        auto state = f.state({}, resource);
        if (!state) return state;
        state->colorWrite = false;
        state->width = f.plan.resource(resource)->width;
        state->height = f.plan.resource(resource)->height;
        return state;
    };
    auto state = state_of(shadow_atlas_resource);
    if (!state) return tl::unexpected(state.error());
    d.state = *state;
    d.atlas = f.texture(shadow_atlas_resource);
    if (apart) {
        auto still = state_of(still_shadows_resource);
        if (!still) return tl::unexpected(still.error());
        d.still = *still;
        d.stillAtlas = f.texture(still_shadows_resource);
    }
    if (set.cubes > 0) {
        d.cubes = f.resources.texture(shadow_cubes_resource, -1);
        std::any& kept = f.store.objects["faces of shadow cubes"];
        if (!kept.has_value()) kept = std::make_shared<Framebuffer>(make_framebuffer("faces of shadow cubes"));
        d.cubeTarget = std::any_cast<std::shared_ptr<Framebuffer>>(kept)->name();
        glNamedFramebufferDrawBuffer(d.cubeTarget, GL_NONE);
    }
    if (d.update == ShadowUpdate::inTurn && !timed) {
        const std::set<MapSquare> turn = whose_turn(f, *d.memory, set);
        std::erase_if(maps, [&](const DrawnMap& m) { return turn.count(m.place) == 0; });
    }
    return [&f, maps = std::move(maps), d = std::move(d), timed] {
        d.state.apply();
        glEnable(GL_SCISSOR_TEST);
        f.scene.bind_meshes(d.instances, 1);
        glBindBuffer(GL_DRAW_INDIRECT_BUFFER, d.buffer);
        Work work;
        for (const DrawnMap& m : maps) {
            if (!timed && d.update == ShadowUpdate::changed && d.memory->holds(m.place, m.digest)) continue;
            if (timed) glFinish();
            const auto start = std::chrono::steady_clock::now();
            draw_map(f, m, d, work);
            if (timed) {
                glFinish();
                f.mapMs[m.light] +=
                    std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
            }
            d.memory->keep(m.place, m.digest, f.inputs.time.index, m.texels);
            if (d.stillAtlas != 0) d.memory->casters[m.place] = m.split.after;
            f.vitals.beat();
        }
        f.drawn = work;
        if (d.update == ShadowUpdate::inTurn) f.told["shadowAges"] = ages(*d.memory, d.places, f.inputs.time.index);
        glDisable(GL_DEPTH_CLAMP);
    };
}

/// A target once more, read in another way. Made for each frame: the device gives names of what is gone to something
/// else. compared: against a depth, weighed; else as the texel holds it.
GLuint view_of(PassFrame& f, GLuint texture, GLenum target, int layers, bool compared, const char* name) {
    GLuint view = 0;
    glGenTextures(1, &view);
    glTextureView(view, target, texture, GL_DEPTH_COMPONENT32F, 0, 1, 0, static_cast<GLuint>(layers));
    const GLint filter = compared ? GL_LINEAR : GL_NEAREST;
    const std::pair<GLenum, GLint> parameters[] = {
        {GL_TEXTURE_COMPARE_MODE, compared ? GL_COMPARE_REF_TO_TEXTURE : GL_NONE},
        {GL_TEXTURE_COMPARE_FUNC, GL_GEQUAL},
        {GL_TEXTURE_MIN_FILTER, filter},
        {GL_TEXTURE_MAG_FILTER, filter},
        {GL_TEXTURE_WRAP_S, GL_CLAMP_TO_EDGE},
        {GL_TEXTURE_WRAP_T, GL_CLAMP_TO_EDGE}};
    for (const auto& [parameter, value] : parameters)
        glTextureParameteri(view, parameter, value);
    f.store.textures[name + std::to_string(f.eye)] = Texture(view);
    return view;
}

void provide_shadow_maps(PassFrame& f) {
    const ShadowSet set = shadow_set_of(f);
    std::vector<glm::vec4> texels = texels_of(f.inputs, set);
    if (shadow_update(f.inputs.setup) == ShadowUpdate::inTurn) { // the others are looked up as they were drawn
        const auto memory = atlas_memory(f);
        const std::set<MapSquare> turn = whose_turn(f, *memory, set);
        const std::size_t start = 3 * f.inputs.draws.lights.size();
        for (std::size_t i = 0; i < set.maps.size(); ++i) {
            const MapSquare place = square_of(set.maps[i]);
            const auto it = memory->held.find(place);
            if (turn.count(place) == 0 && it != memory->held.end())
                std::copy(it->second.texels.begin(), it->second.texels.end(),
                          texels.begin() + static_cast<std::ptrdiff_t>(start + 7 * i));
        }
    }
    Buffer& buffer = f.store.buffer("shadow texels");
    buffer.upload(texels.data(), texels.size() * sizeof(glm::vec4));
    f.textures["shadowTexels"] = f.store.texels(
        "shadow texels", GL_RGBA32F, {buffer.name(), 0, static_cast<GLsizeiptr>(texels.size() * sizeof(glm::vec4))});
    f.textures["shadowCompare"] =
        view_of(f, f.texture(shadow_atlas_resource), GL_TEXTURE_2D, 1, true, "shadow atlas, compared ");
    if (set.cubes == 0) return;
    glEnable(GL_TEXTURE_CUBE_MAP_SEAMLESS);
    const GLuint cubes = f.resources.texture(shadow_cubes_resource, -1);
    f.textures["shadowCubes"] = view_of(f, cubes, GL_TEXTURE_CUBE_MAP_ARRAY, 6 * set.cubes, false, "shadow cubes ");
    f.textures["shadowCubesCompare"] =
        view_of(f, cubes, GL_TEXTURE_CUBE_MAP_ARRAY, 6 * set.cubes, true, "shadow cubes, compared ");
}

} // namespace

const GpuTechnique technique::shadow_maps{prepare_shadow_maps, provide_shadow_maps};

} // namespace mirolux::gpu

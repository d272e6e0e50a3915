#include "core/ambient/environment.h"
#include "core/base/recent.h"
#include "core/base/text.h"
#include "core/sky/sky.h"
#include "gpu/gl/formats.h"
#include "gpu/passes/lobes.h"
#include <cmath>

namespace mirolux::gpu {

namespace {

/// What surroundings were made from; as long as that is the same in the same memory, so are they.
struct Gathered {
    std::string digest;
    std::uint64_t serial = 0;
    std::shared_ptr<const SkyPicture> picture; // kept, so that no other one takes its place in memory
    bool operator==(const Gathered&) const = default;
};

/// Lobes that are gathered over several frames.
struct UnderWay {
    Gathered of;
    std::uint64_t done = 0; // faces
};

std::string digest_of(const PassFrame& f, const SkySettings& sky) {
    Digest d;
    const auto add = [&](const auto& v) { d.add(&v, sizeof v); };
    add(sky.kind);
    if (sky.kind != SkyKind::file) {
        for (const auto& [name, value] : f.plan.parameters)
            if (name == "skyNight")
                add(value.x); // its stars and the pixel's angle are of the picture that one sees
            else if (name.starts_with("sky"))
                add(value);
        const bool once = sky.once, marched = f.plan.resource("sky view") == nullptr;
        add(once);
        add(marched);
    }
    return d.hex();
}

std::string resource_of(const PassFrame& f, const char* name) {
    const std::string coarse = std::string(name) + ", coarse";
    return f.plan.resource(coarse) ? coarse : name;
}

bool always(const PassFrame& f) {
    return f.inputs.setup.choice("environment.update") == "always";
}

/// True, and nothing is to be done, where `name` still holds what it would hold.
bool holds(PassFrame& f, const std::string& name, const Gathered& now) {
    const auto* held = std::any_cast<Gathered>(&f.store.objects[name]);
    if (always(f) || !held || !(*held == now)) return false;
    f.drawn = Work{};
    return true;
}

std::shared_ptr<const CubeOfPicture> cube_picture(const std::shared_ptr<const SkyPicture>& picture, int size) {
    static Recent<std::pair<std::shared_ptr<const SkyPicture>, int>, CubeOfPicture> recent(3);
    return recent.of({picture, size}, [](const auto& key) { return lower_bright(cube_of(*key.first, key.second)); });
}

Result<Commands> prepare_surroundings(PassFrame& f, const PlannedPass& pass) {
    const SkySettings sky = environment_sky(f.inputs.scene, f.inputs.setup, f.inputs.view);
    const std::string& name = pass.writes.front();
    const Gathered now{digest_of(f, sky), f.resources.serial(name), sky.picture};
    const GLuint texture = f.resources.texture(name, -1);
    const int size = f.plan.resource(name)->width;
    if (sky.kind == SkyKind::file) {
        const auto* held = std::any_cast<Gathered>(&f.store.objects[name]);
        const auto faces = held && *held == now && !always(f) ? nullptr : cube_picture(sky.picture, size);
        return [&f, name, now, texture, size, faces] {
            f.drawn = Work{};
            if (!faces) return;
            glTextureSubImage3D(texture, 0, 0, 0, 0, size, size, 6, GL_RGBA, GL_FLOAT, faces->rest.data.data());
            glGenerateTextureMipmap(texture);
            f.store.objects[name] = now;
        };
    }
    auto stage = f.screen_stage("environment/surroundings.glsl", sky_defines(f.inputs.setup, f.plan));
    if (!stage) return tl::unexpected(stage.error());
    PassState state;
    state.framebuffer = face_target(f);
    return [&f, stage = std::move(*stage), state, name, now, texture, size] {
        if (holds(f, name, now)) return;
        stage.use();
        glBindVertexArray(f.emptyVertexArray);
        for (int face = 0; face < 6; ++face)
            draw_face(stage, state, texture, size, 0, face);
        glGenerateTextureMipmap(texture);
        f.vitals.beat();
        f.drawn = Work::drawing(6, 6);
        f.store.objects[name] = now;
    };
}

Result<Commands> prepare_lobes(PassFrame& f, const PlannedPass& pass) {
    const std::string &name = pass.writes.front(), &around = pass.reads.front();
    const LobeLevels levels = lobe_levels(f.inputs.setup, f.inputs.view);
    const SkySettings sky = environment_sky(f.inputs.scene, f.inputs.setup, f.inputs.view);
    const std::string from = digest_of(f, sky) + " " + std::to_string(levels.samples);
    const Gathered now{from, f.resources.serial(name), sky.picture};
    const GLuint cube = cube_view(f, around, GL_TEXTURE_CUBE_MAP, 6, "surroundings as a cube ");
    auto gather = LobeGather::prepare(f, levels, cube, "surroundings",
                                      {sky.kind == SkyKind::file ? cube_picture(sky.picture, levels.size) : nullptr});
    if (!gather) return tl::unexpected(gather.error());
    const bool quick = name != lobes_resource; // of a drag, whose light is not there twice
    const std::string kept = from + (sky.picture ? " " + sky.picture->digest : std::string());
    return [&f, gather = std::move(*gather), name, now, kept,
            keeps = !quick && !always(f) && (!sky.picture || !sky.picture->digest.empty()), levels,
            format = gl_format(f.plan.resource(name)->spec.format), texture = f.resources.texture(name, -1),
            scale = lobe_scale(sky)] {
        if (holds(f, name, now)) return;
        std::any& store = f.store.objects["kept " + name];
        if (!store.has_value()) store = std::make_shared<KeptCubes>();
        KeptCubes& finished = *std::any_cast<std::shared_ptr<KeptCubes>>(store);
        const std::string of = kept + " " + std::to_string(levels.size);
        if (keeps && finished.put_back(of, texture)) {
            f.drawn = Work{};
            f.store.objects[name] = now;
            return;
        }
        std::any& way = f.store.objects[name + ", under way"];
        auto* under = std::any_cast<UnderWay>(&way);
        if (!under || !(under->of == now) || always(f)) {
            if (f.gatherMs > 0 && !f.store.objects[name].has_value())
                for (int mip = 0; mip < levels.mips(); ++mip) // what is not gathered yet mirrors nothing
                    glClearTexImage(texture, mip, GL_RGBA, GL_FLOAT, nullptr);
            way = UnderWay{now, 0};
            under = std::any_cast<UnderWay>(&way);
        }
        f.store.objects[name].reset();
        const std::uint64_t before = under->done;
        under->done = gather.draw(f, 0, texture, 0, scale, before, GatherSlice(f));
        f.drawn = Work::drawing(gather.draws(0, before, under->done), gather.draws(0, before, under->done));
        if (under->done < gather.faces()) return tell_gathering(f, under->done, gather.faces());
        way.reset();
        f.store.objects[name] = now;
        if (keeps) finished.keep(of, texture, format, levels.size, 6 * LobeLevels::cubes, levels.mips());
    };
}

Result<Commands> prepare_environment(PassFrame& f, const PlannedPass& pass) {
    return pass.name == "lobes" ? prepare_lobes(f, pass) : prepare_surroundings(f, pass);
}

/// The map of irradiance stays on the device while the light is the same.
void provide_irradiance(PassFrame& f) {
    SkySettings sky = environment_sky(f.inputs.scene, f.inputs.setup, f.inputs.view);
    if (sky.kind == SkyKind::file) { // the lookup turns, and gives it its strength
        sky.turn = 0;
        sky.strength = 1;
    }
    std::any& held = f.store.objects["surroundings' irradiance"];
    Texture& texture = f.store.textures["surroundings' irradiance"];
    if (const auto* before = std::any_cast<SkySettings>(&held); !before || !(*before == sky)) {
        const FloatImage faces = irradiance_cube(strong_parts(sky_model(sky)->parts()).rest, irradiance_size);
        GLuint name = 0;
        glCreateTextures(GL_TEXTURE_CUBE_MAP, 1, &name);
        glTextureStorage2D(name, 1, GL_RGBA32F, irradiance_size, irradiance_size);
        texture = Texture(name);
        glTextureSubImage3D(name, 0, 0, 0, 0, irradiance_size, irradiance_size, 6, GL_RGBA, GL_FLOAT,
                            faces.data.data());
        smooth(name);
        held = sky;
    }
    f.textures["surroundingIrradiance"] = texture.name();
}

void provide_environment(PassFrame& f) {
    if (f.inputs.setup.choice("ambient.kind") != "environment") return;
    glEnable(GL_TEXTURE_CUBE_MAP_SEAMLESS);
    if (environment_by_cube(f.inputs.setup)) provide_irradiance(f);
    if (!environment_mirrored(f.inputs.setup)) return;
    f.textures["surroundingLobes"] = cube_view(f, resource_of(f, lobes_resource), GL_TEXTURE_CUBE_MAP_ARRAY,
                                               6 * LobeLevels::cubes, "surroundings by lobes, as cubes ");
    provide_split_sums(f);
}

} // namespace

const GpuTechnique technique::environment{prepare_environment, provide_environment};

} // namespace mirolux::gpu

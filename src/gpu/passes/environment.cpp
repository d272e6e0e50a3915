#include "core/ambient/environment.h"
#include "core/ambient/split_sum.h"
#include "core/base/recent.h"
#include "core/base/text.h"
#include "core/light/brdf.h"
#include "core/sky/sky.h"
#include "gpu/gl/formats.h"
#include "gpu/passes/surface_pass.h"
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

/// A cube map's faces as something else than the layers that they are drawn to. Made for each frame.
GLuint view_of(PassFrame& f, const std::string& resource, GLenum target, int layers, const char* name) {
    const PlannedResource& r = *f.plan.resource(resource);
    GLuint view = 0;
    glGenTextures(1, &view);
    glTextureView(view, target, f.resources.texture(resource, -1), gl_format(r.spec.format), 0,
                  static_cast<GLuint>(r.spec.mips), 0, static_cast<GLuint>(layers));
    const std::pair<GLenum, GLint> parameters[] = {{GL_TEXTURE_MIN_FILTER, GL_LINEAR_MIPMAP_LINEAR},
                                                   {GL_TEXTURE_MAG_FILTER, GL_LINEAR},
                                                   {GL_TEXTURE_WRAP_S, GL_CLAMP_TO_EDGE},
                                                   {GL_TEXTURE_WRAP_T, GL_CLAMP_TO_EDGE}};
    for (const auto& [parameter, value] : parameters)
        glTextureParameteri(view, parameter, value);
    f.store.textures[name + std::to_string(f.eye)] = Texture(view);
    return view;
}

std::string resource_of(const PassFrame& f, const char* name) {
    const std::string coarse = std::string(name) + ", coarse";
    return f.plan.resource(coarse) ? coarse : name;
}

/// A framebuffer that takes a face of a mip at a time.
GLuint face_target(PassFrame& f) {
    std::any& kept = f.store.objects["faces of surroundings"];
    if (!kept.has_value()) kept = std::make_shared<Framebuffer>(make_framebuffer("faces of surroundings"));
    return std::any_cast<std::shared_ptr<Framebuffer>>(kept)->name();
}

void draw_face(const Stage& stage, PassState state, GLuint texture, int size, int mip, int layer) {
    glNamedFramebufferTextureLayer(state.framebuffer, GL_COLOR_ATTACHMENT0, texture, mip, layer);
    state.width = state.height = size >> mip;
    state.apply();
    glProgramUniform1i(stage.name(), stage.uniform("face"), layer % 6);
    glProgramUniform1f(stage.name(), stage.uniform("faceSize"), static_cast<float>(size >> mip));
    glDrawArrays(GL_TRIANGLES, 0, 3);
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

/// Directions of all lobes as their shader takes them, and where each level's begin and end.
struct DeviceLobes {
    std::vector<glm::vec4> samples;
    std::vector<GLint> first;
};

DeviceLobes device_lobes(const LobeLevels& levels, int samples) {
    DeviceLobes out{{}, {0, 0}};
    const double texel = 4 * glm::pi<double>() / (6.0 * levels.size * levels.size);
    for (int level = 1; level < levels.count(); ++level) {
        for (const LobeSample& s : lobe_samples(levels.roughness(level), samples_of(level, samples))) {
            // J. Krivanek and M. Colbert, Real-time Shading with Filtered Importance Sampling, 2008.
            const double mip = std::max(0.0, 0.5 * std::log2(s.solid / texel));
            out.samples.emplace_back(s.direction.x, s.direction.y, s.weight, mip);
        }
        out.first.push_back(static_cast<GLint>(out.samples.size()));
    }
    return out;
}

/// The bright sources that a level adds to what its samples find: one by one where it is sharp, in squares where not.
void set_bright(const Stage& stage, const CubeOfPicture* faces, const LobeLevels& levels, int level) {
    const bool fine = level / LobeLevels::cubes < 2;
    const std::size_t first = !faces || fine ? 0 : faces->fine.size(), count = !faces ? 0
                                                                               : fine ? faces->fine.size()
                                                                                      : faces->coarse.size();
    glProgramUniform1i(stage.name(), stage.uniform("firstBright"), static_cast<GLint>(2 + 2 * first));
    glProgramUniform1i(stage.name(), stage.uniform("brights"), static_cast<GLint>(count));
    const double r = std::max(levels.roughness(level), brdf::least_roughness);
    glProgramUniform2f(stage.name(), stage.uniform("lobeForm"), static_cast<float>(r * r),
                       static_cast<float>(1 / lobe_measure(r)));
}

/// What the target holds of it.
FloatImage held(FloatImage image, double scale) {
    for (float& v : image.data)
        v = static_cast<float>(std::min(v / scale, 65000.0));
    return image;
}

Result<Commands> prepare_lobes(PassFrame& f, const PlannedPass& pass) {
    const std::string &name = pass.writes.front(), &around = pass.reads.front();
    const LobeLevels levels = lobe_levels(f.inputs.setup, f.inputs.view);
    const int samples = levels.samples;
    const SkySettings sky = environment_sky(f.inputs.scene, f.inputs.setup, f.inputs.view);
    const std::string from = digest_of(f, sky) + " " + std::to_string(samples);
    const Gathered now{from, f.resources.serial(name), sky.picture};
    const GLuint cube = view_of(f, around, GL_TEXTURE_CUBE_MAP, 6, "surroundings as a cube ");
    DeviceLobes lobes = device_lobes(levels, samples);
    Buffer& buffer = f.store.buffer("samples of lobes");
    const auto bytes = static_cast<GLsizeiptr>(lobes.samples.size() * sizeof(glm::vec4));
    buffer.upload(lobes.samples.data(), lobes.samples.size() * sizeof(glm::vec4));
    const GLuint texels = f.store.texels("samples of lobes", GL_RGBA32F, {buffer.name(), 0, bytes});
    const auto faces = sky.kind == SkyKind::file ? cube_picture(sky.picture, levels.size) : nullptr;
    std::vector<glm::vec4> bright(2, glm::vec4(0.0f)); // a buffer is not empty
    if (faces)
        for (const std::vector<Bright>* list : {&faces->fine, &faces->coarse})
            for (const Bright& b : *list) {
                bright.emplace_back(glm::vec3(b.direction), 0);
                bright.emplace_back(glm::vec3(b.light), 0);
            }
    Buffer& sources = f.store.buffer("bright sources");
    sources.upload(bright.data(), bright.size() * sizeof(glm::vec4));
    const GLuint brights = f.store.texels(
        "bright sources", GL_RGBA32F, {sources.name(), 0, static_cast<GLsizeiptr>(bright.size() * sizeof(glm::vec4))});
    auto mirror = f.screen_stage("environment/lobe.glsl", {"MIRROR"}, {{"surroundings", cube}});
    auto lobe = f.screen_stage("environment/lobe.glsl", {},
                               {{"surroundings", cube}, {"lobeSamples", texels}, {"brightSources", brights}});
    if (!mirror) return tl::unexpected(mirror.error());
    if (!lobe) return tl::unexpected(lobe.error());
    PassState state;
    state.framebuffer = face_target(f);
    const GLuint texture = f.resources.texture(name, -1);
    return [&f, mirror = std::move(*mirror), lobe = std::move(*lobe), state, name, now, texture, levels,
            first = std::move(lobes.first), faces, scale = lobe_scale(sky)] {
        if (holds(f, name, now)) return;
        glEnable(GL_TEXTURE_CUBE_MAP_SEAMLESS);
        glBindVertexArray(f.emptyVertexArray);
        for (int level = 0; level < levels.count(); ++level) {
            const Stage& stage = level == 0 ? mirror : lobe;
            stage.use();
            if (level > 0) {
                const GLint from = first[static_cast<std::size_t>(level)];
                glProgramUniform1i(stage.name(), stage.uniform("firstSample"), from);
                glProgramUniform1i(stage.name(), stage.uniform("samples"),
                                   first[static_cast<std::size_t>(level) + 1] - from);
                set_bright(stage, faces.get(), levels, level);
            } else if (faces) { // the mirror shows them as they are
                const FloatImage whole = held(faces->whole, scale);
                glTextureSubImage3D(texture, 0, 0, 0, 0, levels.size, levels.size, 6, GL_RGBA, GL_FLOAT,
                                    whole.data.data());
                continue;
            }
            const int mip = level / LobeLevels::cubes, first = 6 * (level % LobeLevels::cubes);
            for (int face = 0; face < 6; ++face) {
                draw_face(stage, state, texture, levels.size, mip, first + face);
                f.vitals.beat();
            }
        }
        const auto draws = static_cast<std::uint64_t>(6 * (levels.count() - (faces ? 1 : 0)));
        f.drawn = Work::drawing(draws, draws);
        f.store.objects[name] = now;
    };
}

Result<Commands> prepare_environment(PassFrame& f, const PlannedPass& pass) {
    return pass.name == "lobes" ? prepare_lobes(f, pass) : prepare_surroundings(f, pass);
}

void smooth(GLuint texture) {
    glTextureParameteri(texture, GL_TEXTURE_MIN_FILTER, GL_LINEAR);
    glTextureParameteri(texture, GL_TEXTURE_MAG_FILTER, GL_LINEAR);
    glTextureParameteri(texture, GL_TEXTURE_WRAP_S, GL_CLAMP_TO_EDGE);
    glTextureParameteri(texture, GL_TEXTURE_WRAP_T, GL_CLAMP_TO_EDGE);
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
    f.textures["surroundingLobes"] = view_of(f, resource_of(f, lobes_resource), GL_TEXTURE_CUBE_MAP_ARRAY,
                                             6 * LobeLevels::cubes, "surroundings by lobes, as cubes ");
    auto [it, made] = f.store.textures.try_emplace("split sums");
    if (made) {
        constexpr int n = SplitSumTable::size;
        it->second = make_texture("split sums", GL_RGB32F, n, n);
        glTextureSubImage2D(it->second.name(), 0, 0, 0, n, n, GL_RGB, GL_FLOAT, split_sum_table().values.data());
        smooth(it->second.name());
    }
    f.textures["splitSums"] = it->second.name();
}

} // namespace

const GpuTechnique technique::environment{prepare_environment, provide_environment};

} // namespace mirolux::gpu

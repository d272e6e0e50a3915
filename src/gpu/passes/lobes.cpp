#include "gpu/passes/lobes.h"
#include "core/ambient/split_sum.h"
#include "core/light/brdf.h"
#include "gpu/gl/formats.h"
#include <cmath>

namespace mirolux::gpu {

GLuint cube_view(PassFrame& f, const std::string& resource, GLenum target, int layers, const char* name) {
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

void smooth(GLuint texture) {
    glTextureParameteri(texture, GL_TEXTURE_MIN_FILTER, GL_LINEAR);
    glTextureParameteri(texture, GL_TEXTURE_MAG_FILTER, GL_LINEAR);
    glTextureParameteri(texture, GL_TEXTURE_WRAP_S, GL_CLAMP_TO_EDGE);
    glTextureParameteri(texture, GL_TEXTURE_WRAP_T, GL_CLAMP_TO_EDGE);
}

void provide_split_sums(PassFrame& f) {
    auto [it, made] = f.store.textures.try_emplace("split sums");
    if (made) {
        constexpr int n = SplitSumTable::size;
        it->second = make_texture("split sums", GL_RGB32F, n, n);
        glTextureSubImage2D(it->second.name(), 0, 0, 0, n, n, GL_RGB, GL_FLOAT, split_sum_table().values.data());
        smooth(it->second.name());
    }
    f.textures["splitSums"] = it->second.name();
}

namespace {

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
void set_bright(const Stage& stage, const CubeOfPicture* faces, std::size_t begin, const LobeLevels& levels,
                int level) {
    const bool fine = level / LobeLevels::cubes < 2;
    const std::size_t first = begin + (!faces || fine ? 0 : faces->fine.size()), count = !faces ? 0
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

} // namespace

Result<LobeGather> LobeGather::prepare(PassFrame& f, const LobeLevels& levels, GLuint cube, const std::string& name,
                                       std::vector<std::shared_ptr<const CubeOfPicture>> sources) {
    LobeGather out;
    out.levels_ = levels;
    DeviceLobes lobes = device_lobes(levels, levels.samples);
    out.first_ = std::move(lobes.first);
    const auto texels = [&](const std::string& what, const std::vector<glm::vec4>& values) {
        Buffer& buffer = f.store.buffer(what + " of " + name);
        buffer.upload(values.data(), values.size() * sizeof(glm::vec4));
        return f.store.texels(what + " of " + name, GL_RGBA32F,
                              {buffer.name(), 0, static_cast<GLsizeiptr>(values.size() * sizeof(glm::vec4))});
    };
    std::vector<glm::vec4> bright(2, glm::vec4(0.0f)); // a buffer is not empty
    for (const auto& source : sources) {
        out.firstBright_.push_back(bright.size() / 2 - 1);
        if (source)
            for (const std::vector<Bright>* list : {&source->fine, &source->coarse})
                for (const Bright& b : *list) {
                    bright.emplace_back(glm::vec3(b.direction), 0);
                    bright.emplace_back(glm::vec3(b.light), 0);
                }
    }
    const GLuint samples = texels("samples of lobes", lobes.samples), brights = texels("bright sources", bright);
    auto mirror = f.screen_stage("environment/lobe.glsl", {"MIRROR"}, {{"surroundings", cube}});
    auto lobe = f.screen_stage("environment/lobe.glsl", {},
                               {{"surroundings", cube}, {"lobeSamples", samples}, {"brightSources", brights}});
    if (!mirror) return tl::unexpected(mirror.error());
    if (!lobe) return tl::unexpected(lobe.error());
    out.mirror_ = std::move(*mirror);
    out.lobe_ = std::move(*lobe);
    out.state_.framebuffer = face_target(f);
    out.sources_ = std::move(sources);
    return out;
}

std::uint64_t LobeGather::draws(std::size_t source, std::uint64_t from, std::uint64_t to) const {
    const std::uint64_t first = sources_[source] ? 6 : 0;
    return std::max(to, first) - std::max(from, first);
}

std::uint64_t LobeGather::draw(PassFrame& f, std::size_t source, GLuint texture, int firstLayer, double scale,
                               std::uint64_t from, const GatherSlice& slice) const {
    glEnable(GL_TEXTURE_CUBE_MAP_SEAMLESS);
    glBindVertexArray(f.emptyVertexArray);
    const CubeOfPicture* faces = sources_[source].get();
    const std::uint64_t all = this->faces();
    for (std::uint64_t at = from; at < all; ++at) {
        const int level = static_cast<int>(at / 6), face = static_cast<int>(at % 6);
        if (level == 0 && faces) { // the mirror shows them as they are
            const FloatImage whole = held(faces->whole, scale);
            glTextureSubImage3D(texture, 0, 0, 0, firstLayer, levels_.size, levels_.size, 6, GL_RGBA, GL_FLOAT,
                                whole.data.data());
            at = 5;
            continue;
        }
        const Stage& stage = level == 0 ? mirror_ : lobe_;
        if (face == 0 || at == from) {
            stage.use();
            glProgramUniform1f(stage.name(), stage.uniform("heldScale"), static_cast<float>(scale));
            if (level > 0) {
                const GLint first = first_[static_cast<std::size_t>(level)];
                glProgramUniform1i(stage.name(), stage.uniform("firstSample"), first);
                glProgramUniform1i(stage.name(), stage.uniform("samples"),
                                   first_[static_cast<std::size_t>(level) + 1] - first);
                set_bright(stage, faces, firstBright_[source], levels_, level);
            }
        }
        draw_face(stage, state_, texture, levels_.size, level / LobeLevels::cubes,
                  firstLayer + 6 * (level % LobeLevels::cubes) + face);
        f.vitals.beat();
        if (at + 1 < all && slice.over()) return at + 1;
    }
    return all;
}

bool GatherSlice::over() const {
    if (ms_ <= 0) return false;
    glFinish();
    return now_ms() - start_ > ms_;
}

void tell_gathering(PassFrame& f, std::uint64_t done, std::uint64_t all) {
    std::vector<double>& told = f.told["gathering"];
    told.resize(2, 0.0);
    told[0] += static_cast<double>(done);
    told[1] += static_cast<double>(all);
}

void KeptCubes::copy(GLuint from, GLuint to, int size, int layers, int mips) {
    for (int mip = 0; mip < mips; ++mip)
        glCopyImageSubData(from, GL_TEXTURE_2D_ARRAY, mip, 0, 0, 0, to, GL_TEXTURE_2D_ARRAY, mip, 0, 0, 0, size >> mip,
                           size >> mip, layers);
}

bool KeptCubes::put_back(const std::string& digest, GLuint texture) {
    const auto it = std::find_if(kept_.begin(), kept_.end(), [&](const Kept& k) { return k.digest == digest; });
    if (it == kept_.end()) return false;
    copy(it->texture.name(), texture, it->size, it->layers, it->mips);
    std::rotate(it, it + 1, kept_.end());
    return true;
}

void KeptCubes::keep(const std::string& digest, GLuint texture, GLenum format, int size, int layers, int mips) {
    if (kept_.size() == most) kept_.erase(kept_.begin());
    GLuint name = 0;
    glCreateTextures(GL_TEXTURE_2D_ARRAY, 1, &name);
    glTextureStorage3D(name, mips, format, size, size, layers);
    copy(texture, name, size, layers, mips);
    kept_.push_back({digest, Texture(name), size, layers, mips});
}

} // namespace mirolux::gpu

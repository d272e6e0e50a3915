#include "core/shadow/shadow_maps.h"
#include "gpu/gl/formats.h"
#include "gpu/passes/shadow_atlas_memory.h"
#include "gpu/passes/surface_pass.h"
#include <bit>

namespace mirolux::gpu {

namespace {

/// Which drawing of each map has been blurred, and how.
struct BlurMemory {
    struct Blurred {
        std::uint64_t drawing = 0;
        int radius = 0;
        double exponent = 0;
        bool operator==(const Blurred&) const = default;
    };
    std::uint64_t serial = 0, atlas = 0;
    std::map<MapSquare, Blurred> blurred;
};

std::shared_ptr<BlurMemory> memory_of(PassFrame& f) {
    std::any& kept = f.store.objects["blurred shadows"];
    if (!kept.has_value()) kept = std::make_shared<BlurMemory>();
    auto memory = std::any_cast<std::shared_ptr<BlurMemory>>(kept);
    const std::uint64_t serial = f.resources.serial(blurred_shadows_resource),
                        atlas = f.resources.serial(shadow_atlas_resource);
    if (memory->serial != serial || memory->atlas != atlas) *memory = {serial, atlas, {}};
    return memory;
}

struct BlurredMap {
    MapSquare place{};
    glm::vec4 scale{0.0f}; // shaders/shadow_maps/blur.glsl
};

struct Blurring {
    Stage steps[3];
    GLuint across = 0, into = 0;
    GLenum format = GL_NONE;
    int radius = 0;

    void run(int step, const BlurredMap& m, int level) const {
        const Stage& s = steps[step];
        const auto [x, y, size] = m.place;
        const int side = std::max(1, size >> level);
        s.use();
        const glm::ivec2 written = step == 0 ? glm::ivec2(0) : glm::ivec2(x >> level, y >> level);
        const glm::ivec2 read = step == 2 ? glm::ivec2(x >> (level - 1), y >> (level - 1)) : glm::ivec2(x, y);
        glProgramUniform3i(s.name(), s.uniform("place"), written.x, written.y, side);
        if (step == 0) glProgramUniform4fv(s.name(), s.uniform("scale"), 1, &m.scale.x);
        if (step != 1) glProgramUniform2i(s.name(), s.uniform("origin"), read.x, read.y);
        if (step == 2)
            glProgramUniform1i(s.name(), s.uniform("level"), level);
        else
            glProgramUniform1i(s.name(), s.uniform("radius"), radius);
        glProgramUniform1i(s.name(), s.uniform("into"), 0);
        glBindImageTexture(0, step == 0 ? across : into, level, GL_FALSE, 0, GL_WRITE_ONLY, format);
        glDispatchCompute(static_cast<GLuint>((side + 15) / 16), static_cast<GLuint>((side + 7) / 8), 1);
        glMemoryBarrier(GL_TEXTURE_FETCH_BARRIER_BIT | GL_SHADER_IMAGE_ACCESS_BARRIER_BIT);
    }
};

Result<Commands> prepare_filterable_shadows(PassFrame& f, const PlannedPass&) {
    const Setup& setup = f.inputs.setup;
    const ShadowFilter filter = shadow_filter(setup);
    const double exponent = filter == ShadowFilter::exponential ? setup.number("shadow.exponent") : 0.0;
    Blurring b;
    b.across = f.texture("shadows blurred across");
    b.into = f.texture(blurred_shadows_resource);
    b.format = gl_format(f.plan.resource(blurred_shadows_resource)->spec.format);
    b.radius = setup.whole("shadow.blur");
    for (int step = 0; step < 3; ++step) {
        auto stage =
            f.stage({{GL_COMPUTE_SHADER, "shadow_maps/blur.glsl", ""}},
                    {"FILTERABLE " + std::to_string(static_cast<int>(filter)), "STEP " + std::to_string(step)});
        if (!stage) return tl::unexpected(stage.error());
        b.steps[step] = std::move(*stage);
    }
    std::vector<BlurredMap> maps;
    for (const ShadowMap& m : shadow_set_of(f).maps)
        maps.push_back(
            {{m.x, m.y, m.size}, {m.perspective ? m.near : m.range, m.reach, m.perspective ? 1 : 0, exponent}});
    return [&f, b = std::move(b), maps = std::move(maps), memory = memory_of(f), atlas = atlas_memory(f), exponent] {
        f.drawn = Work{};
        for (const BlurredMap& m : maps) {
            const auto held = atlas->held.find(m.place);
            if (held == atlas->held.end()) continue; // waits for its turn
            const BlurMemory::Blurred now{held->second.drawing, b.radius, exponent};
            const auto before = memory->blurred.find(m.place);
            if (before != memory->blurred.end() && before->second == now) continue;
            b.run(0, m, 0);
            b.run(1, m, 0);
            for (int level = 1; level < blurred_shadows_mips && m.place[2] >> level > 0; ++level)
                b.run(2, m, level);
            AtlasMemory::forget_under(memory->blurred, m.place);
            memory->blurred[m.place] = now;
            f.vitals.beat();
        }
    };
}

void provide_filterable_shadows(PassFrame& f) {
    if (!f.plan.resource(blurred_shadows_resource)) return;
    const GLuint texture = f.texture(blurred_shadows_resource);
    const std::pair<GLenum, GLint> parameters[] = {{GL_TEXTURE_MIN_FILTER, GL_LINEAR_MIPMAP_LINEAR},
                                                   {GL_TEXTURE_MAG_FILTER, GL_LINEAR},
                                                   {GL_TEXTURE_WRAP_S, GL_CLAMP_TO_EDGE},
                                                   {GL_TEXTURE_WRAP_T, GL_CLAMP_TO_EDGE}};
    for (const auto& [parameter, value] : parameters)
        glTextureParameteri(texture, parameter, value);
}

} // namespace

const GpuTechnique technique::filterable_shadows{prepare_filterable_shadows, provide_filterable_shadows};

} // namespace mirolux::gpu

#include "core/motion/skinning.h"
#include "gpu/gl/formats.h"
#include "gpu/passes/surface_pass.h"
#include <algorithm>
#include <cassert>

namespace mirolux::gpu {

/// Samplers of a material's textures, in the order of TextureSlot.
static constexpr const char* material_samplers[texture_slots] = {"baseColorTexture", "metallicRoughnessTexture",
                                                                 "normalTexture",    "occlusionTexture",
                                                                 "emissiveTexture",  "thicknessTexture"};

GLuint DeviceStore::texels(const std::string& name, GLenum format, const BufferRange& range) {
    Texture& t = textures[name];
    if (!t) {
        GLuint made = 0;
        glCreateTextures(GL_TEXTURE_BUFFER, 1, &made);
        t = Texture(made);
    }
    glTextureBufferRange(t.name(), format, range.buffer, range.offset, range.size); // storage may have been made anew
    return t.name();
}

void Bindings::apply() const {
    for (const auto& [unit, texture] : textures)
        glBindTextureUnit(unit, texture);
    for (const Image& i : images)
        glBindImageTexture(i.unit, i.texture, 0, GL_FALSE, 0, GL_WRITE_ONLY, i.format);
    for (const auto& [point, range] : buffers)
        if (range.size > 0)
            glBindBufferRange(GL_SHADER_STORAGE_BUFFER, point, range.buffer, range.offset, range.size);
        else
            glBindBufferBase(GL_SHADER_STORAGE_BUFFER, point, range.buffer);
}

void SurfaceStage::set(const std::string& uniform, GLint value) const {
    for (const Stage* s : {&solid, &masked})
        if (s->program) glProgramUniform1i(s->name(), s->uniform(uniform), value);
}

void SurfaceStage::set(const std::string& uniform, GLuint value) const {
    for (const Stage* s : {&solid, &masked})
        if (s->program) glProgramUniform1ui(s->name(), s->uniform(uniform), value);
}

Result<PassState> PassFrame::state(const std::vector<std::string>& colors, const std::string& depth) const {
    auto target = framebuffer(colors, depth);
    if (!target) return tl::unexpected(target.error());
    PassState s;
    s.framebuffer = *target;
    const PlannedResource& first = *plan.resource(colors.empty() ? depth : colors.front());
    s.width = first.width;
    s.height = first.height;
    s.depthTest = s.depthWrite = !depth.empty();
    return s;
}

void PassFrame::upload(const std::string& block, const void* data, std::size_t bytes) {
    Buffer& b = store.buffer(block + " " + std::to_string(eye));
    b.upload(data, bytes);
    buffers[block] = {b.name(), 0, 0};
}

Result<Bindings> PassFrame::bind(const BuiltProgram& program, const Replaced& replaced) const {
    Bindings out;
    const auto nothing = [&](const char* what, const std::string& name) {
        return fail(std::string("the shader reads ") + what + " that nothing in this frame provides", name,
                    "Name a resource of the frame, or leave it out.");
    };
    for (const auto& [sampler, unit] : program.samplers) {
        int slot = 0;
        while (slot < texture_slots && sampler != material_samplers[slot])
            ++slot;
        if (slot < texture_slots) {
            out.materialUnits[slot] = static_cast<GLint>(unit);
            continue;
        }
        GLuint texture = 0;
        if (const auto it = replaced.find(sampler); it != replaced.end())
            texture = it->second;
        else if (const auto own = textures.find(sampler); own != textures.end())
            texture = own->second;
        else
            for (const PlannedResource& r : plan.resources) {
                if (r.spec.sampler == sampler) texture = resources.texture(r.spec.name, eye);
                if (r.spec.life == Life::history && r.spec.sampler + "Previous" == sampler)
                    texture = resources.previous(r.spec.name, eye);
            }
        if (texture == 0) return nothing("a texture", sampler);
        out.textures.emplace_back(unit, texture);
    }
    for (const auto& [image, unit] : program.images) {
        const auto r =
            std::find_if(plan.resources.begin(), plan.resources.end(),
                         [name = image](const PlannedResource& p) { return p.spec.sampler + "Image" == name; });
        if (r == plan.resources.end()) return nothing("a picture", image);
        out.images.push_back({unit, resources.texture(r->spec.name, eye), gl_format(r->spec.format)});
    }
    for (const auto& [block, point] : program.blocks) {
        const auto it = buffers.find(block);
        if (it == buffers.end()) return nothing("a buffer", block);
        out.buffers.emplace_back(point, it->second);
    }
    return out;
}

Result<Stage> PassFrame::stage(const std::vector<ShaderStage>& stages, std::vector<std::string> defines,
                               const Replaced& replaced, const GeneratedFiles* files) const {
    if (instrument == Instrument::count) defines.push_back("COUNT");
    if (instrument == Instrument::ledger) defines.push_back("LEDGER");
    auto program = programs.get(stages, defines, files ? *files : generated);
    if (!program) return tl::unexpected(program.error());
    auto bindings = bind(**program, replaced);
    if (!bindings) return tl::unexpected(bindings.error());
    return Stage{std::move(*program), std::move(*bindings)};
}

Result<Stage> PassFrame::screen_stage(const std::string& fragment, std::vector<std::string> defines,
                                      const Replaced& replaced, const GeneratedFiles* files) const {
    return stage({{GL_VERTEX_SHADER, "screen/vertex.glsl", ""}, {GL_FRAGMENT_SHADER, fragment, ""}}, std::move(defines),
                 replaced, files);
}

Result<SurfaceStage> PassFrame::mesh_stage(const std::string& fragment, std::vector<std::string> defines,
                                           const Replaced& replaced, const GeneratedFiles* files) const {
    if (both_eyes()) defines.push_back("BOTH_EYES");
    if (skinning_of(inputs.scene, inputs.setup) == Skinning::vertex) defines.push_back("BEND");
    SurfaceStage out;
    for (const bool mask : {false, true}) {
        bool used = !mask;
        for (const Material& m : scene.asset().materials)
            used = used || m.alphaMode == AlphaMode::mask;
        if (!used) continue;
        if (mask) defines.push_back("ALPHA_MASK");
        auto made = stage({{GL_VERTEX_SHADER, "surface/vertex.glsl", ""}, {GL_FRAGMENT_SHADER, fragment, ""}}, defines,
                          replaced, files);
        if (!made) return tl::unexpected(made.error());
        (mask ? out.masked : out.solid) = std::move(*made);
    }
    return out;
}

std::vector<std::string> PassFrame::shading_defines(std::vector<std::string> variant) const {
    variant.insert(variant.end(), plan.surfaceDefines.begin(), plan.surfaceDefines.end());
    return variant;
}

Result<SurfaceStage> PassFrame::surface_stage(std::vector<std::string> variant, const Replaced& replaced,
                                              const GeneratedFiles* files) const {
    return mesh_stage("surface/fragment.glsl", shading_defines(std::move(variant)), replaced, files);
}

std::vector<std::string> PassFrame::blended_variant() const {
    if (plan.resource("light lists")) return {"PASS_LIT", "BLENDED", "LIGHTS_OF 1", "LISTS_PART 1"};
    return {"PASS_LIT", "BLENDED", "LIGHTS_OF 0"};
}

void PassFrame::draw(const std::vector<Batch>& batches, const SurfaceStage& stages, const PassState& state,
                     const DrawSource& source) const {
    state.apply();
    scene.bind_meshes(source.instances, both_eyes() ? 2 : 1);
    glBindBuffer(GL_DRAW_INDIRECT_BUFFER, source.commands);
    int boundMaterial = -1;
    const Stage* bound = nullptr;
    for (const Batch& b : batches) {
        const Material& m = scene.asset().materials[static_cast<std::size_t>(b.material)];
        if (b.material != boundMaterial) {
            const Stage& s = stages.of(m.alphaMode == AlphaMode::mask);
            if (&s != bound) s.use();
            bound = &s;
            scene.bind_textures(b.material, s.bindings.materialUnits);
            boundMaterial = b.material;
        }
        if (m.doubleSided)
            glDisable(GL_CULL_FACE);
        else
            glEnable(GL_CULL_FACE);
        glFrontFace(b.mirrored ? GL_CW : GL_CCW);
        glMultiDrawElementsIndirect(GL_TRIANGLES, GL_UNSIGNED_INT,
                                    reinterpret_cast<const void*>(b.first * sizeof(DrawCommand)),
                                    static_cast<GLsizei>(b.count), 0);
    }
}

void PassFrame::draw_screen(const Stage& stage, const PassState& state) const {
    state.apply();
    stage.use();
    glBindVertexArray(emptyVertexArray);
    glDrawArrays(GL_TRIANGLES, 0, 3);
}

static std::map<std::string, const GpuTechnique*>& sides() {
    static std::map<std::string, const GpuTechnique*> all = {
#define MIROLUX_TECHNIQUE(name) {#name, &technique::name},
#define MIROLUX_VALUES(name)
#include "core/technique/all.def"
#undef MIROLUX_TECHNIQUE
#undef MIROLUX_VALUES
    };
    return all;
}

const GpuTechnique* find_gpu_technique(const Technique& technique) {
    const auto it = sides().find(technique.name);
    return it == sides().end() ? nullptr : it->second;
}

const GpuTechnique& gpu_technique(const Technique& technique) {
    const GpuTechnique* side = find_gpu_technique(technique);
    assert(side); // a pass without a side on the device
    return *side;
}

void add_gpu_technique(const Technique& technique, const GpuTechnique& side) {
    sides()[technique.name] = &side;
}

} // namespace mirolux::gpu

#include "gpu/passes/pass.h"
#include <cassert>

namespace mirolux::gpu {

const Pass& pass_of(PassKind kind) {
    static const Pass* const all_passes[] = {
        &depth_pass,   &forward_pass, &ambient_pass, &lights_pass,      &gbuffer_pass, &culling_pass, &shading_pass,
        &volumes_pass, &listed_pass,  &sky_pass,     &transparent_pass, &peeled_pass,  &finish_pass};
    for (const Pass* p : all_passes)
        if (p->kind == kind) return *p;
    assert(false);
    return depth_pass;
}

void add_instrument(const PassContext& context, std::vector<std::string>& defines) {
    if (context.instrument == Instrument::count) defines.push_back("COUNT");
    if (context.instrument == Instrument::ledger) defines.push_back("LEDGER");
}

Variant blended_variant(const PassContext& context) {
    if (context.path.lists) return {"PASS_LISTED", "LISTS_PART 1"};
    return {"PASS_FORWARD"};
}

std::vector<std::string> shading_defines(const PassContext& context, const Variant& variant, bool masked) {
    const Setup& s = context.setup;
    const std::string& model = s.choice("shading.model");
    auto numbered = [](const char* name, int value) { return std::string(name) + ' ' + std::to_string(value); };
    const int number = model == "lambert" ? 0 : model == "phong" ? 1 : model == "blinn-phong" ? 2 : 3;
    std::vector<std::string> defines = variant;
    for (const std::string& d :
         {numbered("SHADING_MODEL", number), numbered("NORMALISED", s.flag("shading.normalised")),
          numbered("WINDOW_SQUARED", s.choice("light.window") == "squared"),
          numbered("NORMAL_MAPS", s.flag("shading.normalMaps"))})
        defines.push_back(d);
    if (s.choice("gbuffer.packing") == "full") defines.push_back("GBUFFER_FULL 1");
    if (masked) defines.push_back("ALPHA_MASK");
    if (context.bothEyes) defines.push_back("BOTH_EYES");
    add_instrument(context, defines);
    return defines;
}

Result<GLuint> surface_program(PassContext& context, const Variant& variant, bool masked) {
    return context.programs.get("mesh_vertex.glsl", "surface_fragment.glsl", shading_defines(context, variant, masked));
}

Result<void> prepare_surface(PassContext& context, const Variant& variant) {
    for (const bool masked : {false, true}) {
        bool used = !masked;
        for (const Material& m : context.scene.asset().materials)
            used = used || m.alphaMode == AlphaMode::mask;
        if (!used) continue;
        if (auto p = surface_program(context, variant, masked); !p) return tl::unexpected(p.error());
    }
    return {};
}

void draw_batches(PassContext& context, const std::vector<Batch>& batches,
                  const std::function<GLuint(bool masked)>& program) {
    glBindVertexArray(context.scene.vertex_array());
    glBindBuffer(GL_DRAW_INDIRECT_BUFFER, context.commandBuffer);
    int boundMaterial = -1;
    GLuint boundProgram = 0;
    for (const Batch& b : batches) {
        const Material& m = context.scene.asset().materials[static_cast<std::size_t>(b.material)];
        if (b.material != boundMaterial) {
            context.scene.bind_textures(b.material);
            const GLuint p = program(m.alphaMode == AlphaMode::mask);
            if (p != boundProgram) glUseProgram(boundProgram = p);
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
    glDisable(GL_CULL_FACE);
    glFrontFace(GL_CCW);
}

} // namespace mirolux::gpu

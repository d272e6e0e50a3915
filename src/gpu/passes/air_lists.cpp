#include "core/air/air_lists.h"
#include "core/air/air.h"
#include "core/air/lamp_air.h"
#include "gpu/passes/light_lists.h"

namespace mirolux::gpu {

static ListedGrid lists_of_air(const PassFrame& f) {
    return {"Air", air_lists_resource, "airListTexels", air_grid_settings(f.inputs.setup),
            air_grid_shape(f.inputs.setup, f.inputs.view, f.inputs.draws)};
}

static Result<Commands> prepare_air_lists(PassFrame& f, const PlannedPass&) {
    return fill_lists(f, lists_of_air(f));
}

/// The table of the closed form, made once.
static GLuint air_integrals(PassFrame& f) {
    Texture& kept = f.store.textures["air integrals"];
    if (!kept) {
        const AirIntegralTable& table = air_integral_table();
        GLuint made = 0;
        glCreateTextures(GL_TEXTURE_2D, 1, &made);
        glTextureStorage2D(made, 1, GL_R32F, AirIntegralTable::columns, AirIntegralTable::rows);
        glTextureSubImage2D(made, 0, 0, 0, AirIntegralTable::columns, AirIntegralTable::rows, GL_RED, GL_FLOAT,
                            table.values.data());
        glTextureParameteri(made, GL_TEXTURE_MIN_FILTER, GL_LINEAR);
        glTextureParameteri(made, GL_TEXTURE_MAG_FILTER, GL_LINEAR);
        glTextureParameteri(made, GL_TEXTURE_WRAP_S, GL_CLAMP_TO_EDGE);
        glTextureParameteri(made, GL_TEXTURE_WRAP_T, GL_CLAMP_TO_EDGE);
        kept = Texture(made);
    }
    return kept.name();
}

static void provide_air_lists(PassFrame& f) {
    provide_lists(f, lists_of_air(f));
    std::vector<float> shares;
    for (const Light& l : f.inputs.draws.lights)
        shares.push_back(static_cast<float>(air_share(l, f.inputs.setup)));
    shares.push_back(0.0f);
    Buffer& b = f.store.buffer("air shares");
    b.upload(shares.data(), shares.size() * sizeof(float));
    f.textures["airShares"] =
        f.store.texels("air shares", GL_R32F, {b.name(), 0, static_cast<GLsizeiptr>(shares.size() * sizeof(float))});
    if (f.inputs.setup.choice("air.kind") == "uniform") f.textures["airIntegrals"] = air_integrals(f);
}

const GpuTechnique technique::air_lists{prepare_air_lists, provide_air_lists};

} // namespace mirolux::gpu

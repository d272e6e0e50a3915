#include "gpu/frame/generated.h"
#include "core/base/text.h"
#include <set>

namespace mirolux::gpu {

namespace {

void seal(GeneratedFiles& g) {
    Digest digest;
    for (const auto& [name, text] : g.files)
        digest.add(text.data(), text.size());
    g.digest = digest.hex();
}

std::string parameters_text() {
    std::string text = "// Parameters of techniques, as they declare them.\nstruct Parameters {\n";
    for (const std::string& name : all_parameters())
        text += "    vec4 " + name + ";\n";
    return text + "};\nlayout(std430) readonly buffer ParameterBuffer { Parameters parameters; };\n";
}

std::string counters_text() {
    std::string text = "// Places of counters, as techniques declare them.\n";
    for (std::size_t i = 0; i < all_counters().size(); ++i)
        text += "#define COUNTER_" + all_counters()[i].name + " " + std::to_string(i) + "u\n";
    return text + "#define COUNTERS " + std::to_string(all_counters().size()) + "u\n";
}

/// How a slot joins what is fed to it: the define that says it is fed, its head, and what stands around each call.
struct SlotForm {
    Slot slot;
    const char *define, *head, *start, *before, *after, *end;
};
constexpr SlotForm slot_forms[] = {
    {Slot::lightFactor, "SLOT_LIGHT_FACTOR",
     "vec3 slotLightFactor(uint light, LightData data, vec3 point, vec3 normal, vec3 toLight)", "vec3 all = vec3(1.0);",
     "all *= ", "(light, data, point, normal, toLight);", "return all;"},
    {Slot::lightThickness, "SLOT_LIGHT_THICKNESS",
     "float slotLightThickness(uint light, LightData data, vec3 point, vec3 toLight)", "float all = -1.0;",
     "all = max(all, ", "(light, data, point, toLight));", "return all;"},
    {Slot::ambientDiffuse, "SLOT_AMBIENT_DIFFUSE", "vec3 slotAmbientDiffuse(vec3 point, vec3 normal)",
     "vec3 all = vec3(0.0);", "all += ", "(point, normal);", "return all;"},
    {Slot::ambientSpecular, "SLOT_AMBIENT_SPECULAR",
     "vec3 slotAmbientSpecular(vec3 point, vec3 normal, vec3 toEye, float roughness)", "vec3 all = vec3(0.0);",
     "all += ", "(point, normal, toEye, roughness);", "return all;"},
    {Slot::spaceDiffuse, "SLOT_SPACE_DIFFUSE", "vec4 slotSpaceDiffuse(vec3 point, vec3 normal)",
     "vec4 all = vec4(0.0);", "all += ", "(point, normal);", "return all;"},
    {Slot::baked, "SLOT_BAKED", "BakedLight slotBaked(vec2 place)", "BakedLight all = noBakedLight;",
     "all = ", "(place);", "return all;"},
    {Slot::bakedOcclusion, "SLOT_BAKED_OCCLUSION", "float slotBakedOcclusion(vec2 place)", "float all = 1.0;",
     "all *= ", "(place);", "return all;"},
    {Slot::probeDiffuse, "SLOT_PROBE_DIFFUSE", "vec4 slotProbeDiffuse(vec3 point, vec3 normal)",
     "vec4 all = vec4(0.0);", "all += ", "(point, normal);", "return all;"},
    {Slot::probeSpecular, "SLOT_PROBE_SPECULAR",
     "vec4 slotProbeSpecular(vec3 point, vec3 normal, vec3 toEye, float roughness)", "vec4 all = vec4(0.0);",
     "all += ", "(point, normal, toEye, roughness);", "return all;"},
    {Slot::occlusion, "SLOT_OCCLUSION", "float slotOcclusion(vec3 point, vec3 normal)", "float all = 1.0;",
     "all *= ", "(point, normal);", "return all;"},
    {Slot::reflection, "SLOT_REFLECTION", "vec4 slotReflection(vec3 point, vec3 normal, vec3 toEye, float roughness)",
     "vec4 all = vec4(0.0);", "all += ", "(point, normal, toEye, roughness);", "return all;"},
    {Slot::air, "SLOT_AIR", "void slotAir(vec3 point, bool sky, inout vec3 transmittance, inout vec3 scattered)", "",
     "", "(point, sky, transmittance, scattered);", ""},
    {Slot::post, "SLOT_POST", "vec3 slotPost(vec3 radiance, ivec2 texel)", "", "radiance = ", "(radiance, texel);",
     "return radiance;"},
    {Slot::flatFactor, "SLOT_FLAT_FACTOR", "float slotFlatFactor(uint light, vec2 point)", "float all = 1.0;",
     "all *= ", "(light, point);", "return all;"},
};

std::string slots_text(const FramePlan& plan) {
    std::string text = "// What the techniques of this frame feed to the slots of shading.\n";
    std::set<std::string> files;
    for (const Feed& f : plan.feeds)
        if (files.insert(f.file).second) text += "#include \"" + f.file + "\"\n";
    for (const SlotForm& form : slot_forms) {
        std::string calls;
        for (const Feed& f : plan.feeds)
            if (f.slot == form.slot) calls += std::string("    ") + form.before + f.function + form.after + "\n";
        if (calls.empty()) continue;
        text += std::string("#define ") + form.define + "\n" + form.head + " {\n    " + form.start + "\n" + calls +
                "    " + form.end + "\n}\n";
    }
    return text;
}

} // namespace

GeneratedFiles generated_files(const FramePlan& plan) {
    GeneratedFiles g;
    g.files = {{"generated/parameters.glsl", parameters_text()},
               {"generated/counters.glsl", counters_text()},
               {"generated/slots.glsl", slots_text(plan)},
               {"generated/layers.glsl", "// This pass writes no layers.\n"},
               {"generated/block_layer.glsl", "// This pass writes no layer.\n"}};
    seal(g);
    return g;
}

GeneratedFiles with_layers(const GeneratedFiles& files, const std::vector<const LayerInfo*>& layers) {
    GeneratedFiles g = files;
    std::string head = "// The layers that this pass writes.\n#include \"surface/layers.glsl\"\n", body;
    for (std::size_t i = 0; i < layers.size(); ++i) {
        const std::string number = std::to_string(i);
        head += "#include \"" + layers[i]->file + "\"\nlayout(location = " + number + ") out vec4 outLayer" + number +
                ";\n";
        body += "    outLayer" + number + " = layer_" + layers[i]->name + "(i);\n";
    }
    g.files["generated/layers.glsl"] = head + "void writeLayers(LayerInput i) {\n" + body + "}\n";
    seal(g);
    return g;
}

GeneratedFiles with_block_layer(const GeneratedFiles& files, const LayerInfo& layer) {
    GeneratedFiles g = files;
    g.files["generated/block_layer.glsl"] = "#include \"" + layer.file + "\"\n";
    seal(g);
    return g;
}

std::vector<glm::vec4> parameter_values(const FramePlan& plan) {
    Parameters all = plan.parameters;
    for (const auto& make : plan.later)
        all.merge(make());
    std::vector<glm::vec4> out;
    for (const std::string& name : all_parameters()) {
        const auto it = all.find(name);
        out.push_back(it == all.end() ? glm::vec4(0.0f) : it->second);
    }
    return out;
}

} // namespace mirolux::gpu

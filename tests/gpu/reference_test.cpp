#include "core/finish/dither.h"
#include "core/flat/flat_view.h"
#include "core/light/brdf.h"
#include "core/light/falloff.h"
#include "core/light/tone.h"
#include "core/surface/subsurface.h"
#include "gpu/frame/gpu_structs.h"
#include "gpu/passes/block_world.h"
#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

namespace {

/// Runs a GLSL expression over rows of eight inputs on the device; `value` may use x[0]..x[7] and must be a float.
std::vector<float> on_device(const std::vector<std::string>& includes, const std::string& value,
                             const std::vector<float>& rows, const std::vector<std::string>& defines = {}) {
    std::string text = "#version 450 core\n";
    for (const std::string& i : includes)
        text += "#include \"" + i + "\"\n";
    text += "layout(local_size_x = 64) in;\nlayout(std430) readonly buffer In { float inputs[]; "
            "};\nlayout(std430) writeonly buffer Out { float outputs[]; };\n"
            "float value(float x[8]) {\n" +
            value +
            "\n}\nvoid main() {\n    uint i = gl_GlobalInvocationID.x;\n    if (i >= outputs.length()) return;\n    "
            "float x[8];\n"
            "    for (uint k = 0u; k < 8u; ++k)\n        x[k] = inputs[8u * i + k];\n    outputs[i] = value(x);\n}\n";
    auto program =
        gpu::build_program(session().shaders(), {{GL_COMPUTE_SHADER, "test", text}}, defines, gpu::generated_files({}));
    if (!program) qFatal("%s", to_text(program.error()).c_str());
    gpu::Buffer in("test in"), out("test out");
    in.upload(rows.data(), rows.size() * 4);
    const std::size_t count = rows.size() / 8;
    std::vector<float> results(count);
    out.upload(results.data(), count * 4);
    glBindBufferRange(GL_SHADER_STORAGE_BUFFER, program->blocks.at("In"), in.name(), 0,
                      static_cast<GLsizeiptr>(rows.size() * 4));
    glBindBufferRange(GL_SHADER_STORAGE_BUFFER, program->blocks.at("Out"), out.name(), 0,
                      static_cast<GLsizeiptr>(count * 4));
    glUseProgram(program->name());
    glDispatchCompute(static_cast<GLuint>((count + 63) / 64), 1, 1);
    glMemoryBarrier(GL_BUFFER_UPDATE_BARRIER_BIT);
    glGetNamedBufferSubData(out.name(), 0, static_cast<GLsizeiptr>(count * 4), results.data());
    return results;
}

constexpr int inputs = 10000;

} // namespace

class reference_test : public QObject {
    Q_OBJECT

    using Reference = std::function<double(const float*)>;
    /// GLSL against C++ over 10,000 rows; relative error under 1e-3, values under `floor` are compared absolutely.
    void agree(const std::vector<std::string>& includes, const std::string& glsl,
               const std::vector<std::pair<float, float>>& ranges, const Reference& reference, double floor,
               const std::vector<std::string>& defines = {}) {
        std::mt19937 r(99);
        std::vector<float> rows(8 * inputs, 0.0f);
        for (int i = 0; i < inputs; ++i)
            for (std::size_t k = 0; k < ranges.size(); ++k)
                rows[8 * i + k] = random_in(r, ranges[k].first, ranges[k].second);
        const auto got = on_device(includes, glsl, rows, defines);
        double worst = 0;
        for (int i = 0; i < inputs; ++i) {
            const double wanted = reference(&rows[8 * i]);
            worst = std::max(worst, std::abs(got[i] - wanted) / std::max(std::abs(wanted), floor));
        }
        QVERIFY2(worst < 1e-3,
                 qPrintable(QString("%1: worst relative error %2").arg(QString::fromStdString(glsl)).arg(worst)));
    }

private slots:
    void falloff_functions_agree() {
        const std::vector<std::string> light = {"include/structs.glsl", "include/light.glsl"};
        for (const bool squared : {true, false}) {
            const RangeWindow w = squared ? RangeWindow::squared : RangeWindow::unsquared;
            const std::string flag = squared ? "true" : "false";
            agree(
                light, "return rangeWindow(x[0], x[1], " + flag + ");", {{0, 20}, {0, 20}},
                [w](const float* x) { return range_window(x[0], x[1], w); }, 1e-3);
            agree(
                light, "return distanceAttenuation(x[0], x[1], x[2], " + flag + ");", {{0, 20}, {0, 20}, {0, 20}},
                [w](const float* x) { return distance_attenuation(x[0], x[1], x[2], w); }, 1e-5);
        }
        agree(
            light, "return coneAttenuation(x[0], max(x[1], x[2]), min(x[1], x[2]));", {{-1, 1}, {0, 1}, {0, 1}},
            [](const float* x) { return cone_attenuation(x[0], std::max(x[1], x[2]), std::min(x[1], x[2])); }, 1e-2);
    }

    void brdf_functions_agree() {
        const std::vector<std::string> b = {"include/brdf.glsl"};
        agree(
            b, "return schlick(vec3(x[0]), x[2], x[1]).x;", {{0, 1}, {0, 1}, {0, 1}},
            [](const float* x) { return brdf::schlick(x[0], x[1], x[2]); }, 1e-6);
        agree(
            b, "return ggxDistribution(x[0], x[1]);", {{0, 1}, {0.002f, 1}},
            [](const float* x) { return brdf::ggx_distribution(x[0], x[1]); }, 1e-6);
        agree(
            b, "return ggxDistribution(x[0], x[1]);", {{0.9999f, 1}, {0.002f, 0.1f}},
            [](const float* x) { return brdf::ggx_distribution(x[0], x[1]); }, 1e-6);
        agree(
            b, "return smithVisibility(x[0], x[1], x[2]);", {{0.01f, 1}, {0.01f, 1}, {0.002f, 1}},
            [](const float* x) { return brdf::smith_visibility(x[0], x[1], x[2]); }, 1e-6);
        for (const bool normalised : {true, false}) {
            const std::string flag = normalised ? "true" : "false";
            agree(
                b, "return phongLobe(x[0], x[1], " + flag + ");", {{-0.2f, 1}, {1, 200}},
                [normalised](const float* x) { return brdf::phong_lobe(x[0], x[1], normalised); }, 1e-5);
            agree(
                b, "return blinnPhongLobe(x[0], x[1], " + flag + ");", {{-0.2f, 1}, {1, 200}},
                [normalised](const float* x) { return brdf::blinn_phong_lobe(x[0], x[1], normalised); }, 1e-5);
        }
        for (int model = 0; model < 4; ++model)
            for (const char* part : {"d.x", "s.x"})
                agree(
                    b,
                    "vec3 l = normalize(vec3(x[0], x[1], x[2])), v = normalize(vec3(x[3], x[4], x[5])), d, s;\n"
                    "    evaluateBrdf(" +
                        std::to_string(model) +
                        ", vec3(0.6), x[6], 0.1 + 0.9 * x[7], opticsOf(0u), 30.0, true, vec3(0.0, 0.0, 1.0), l, v, d, "
                        "s);\n    "
                        "return " +
                        part + ";",
                    {{-1, 1}, {-1, 1}, {0.05f, 1}, {-1, 1}, {-1, 1}, {0.05f, 1}, {0, 1}, {0, 1}},
                    [model, part](const float* x) {
                        const glm::dvec3 l = glm::normalize(glm::dvec3(x[0], x[1], x[2])),
                                         v = glm::normalize(glm::dvec3(x[3], x[4], x[5]));
                        const brdf::Lobes lobes =
                            brdf::evaluate(static_cast<brdf::Model>(model), {glm::dvec3(0.6), x[6], 0.1 + 0.9 * x[7]},
                                           30.0, true, {0, 0, 1}, l, v);
                        return part[0] == 'd' ? lobes.diffuse.x : lobes.specular.x;
                    },
                    1e-3);
    }

    void coats_and_light_beneath_agree() {
        const std::vector<std::string> b = {"include/brdf.glsl", "include/subsurface.glsl"};
        const std::string optics = "OpticsData o = OpticsData(vec3(x[7] * 0.2), 0.8, vec3(0.0), 0.0, x[6], 0.1 + 0.5 * "
                                   "x[7], 0.0, 0.0);\n    vec3 ";
        const auto surface = [](const float* x) {
            brdf::Surface s{glm::dvec3(0.6), 0.3, 0.5};
            s.optics.f0 = glm::vec3(x[7] * 0.2f);
            s.optics.f90 = 0.8f;
            s.optics.coat = x[6];
            s.optics.coatRoughness = 0.1f + 0.5f * x[7];
            return s;
        };
        for (int model = 1; model < 4; ++model)
            for (const char* part : {"d.x", "s.x"})
                agree(b,
                      optics +
                          "l = normalize(vec3(x[0], x[1], x[2])), v = normalize(vec3(x[3], x[4], x[5])), d, s;\n"
                          "    evaluateBrdf(" +
                          std::to_string(model) +
                          ", vec3(0.6), 0.3, 0.5, o, 30.0, true, vec3(0.0, 0.0, 1.0), l, v, d, s);\n    return " +
                          part + ";",
                      {{-1, 1}, {-1, 1}, {0.05f, 1}, {-1, 1}, {-1, 1}, {0.05f, 1}, {0, 1}, {0, 1}},
                      [&, model, part](const float* x) {
                          const glm::dvec3 l = glm::normalize(glm::dvec3(x[0], x[1], x[2])),
                                           v = glm::normalize(glm::dvec3(x[3], x[4], x[5]));
                          const brdf::Lobes lobes =
                              brdf::evaluate(static_cast<brdf::Model>(model), surface(x), 30.0, true, {0, 0, 1}, l, v);
                          return part[0] == 'd' ? lobes.diffuse.x : lobes.specular.x;
                      },
                      1e-3, {"OPTICS"});
        for (int model = 0; model < 4; ++model)
            agree(b,
                  optics + "body = beneathLobe(" + std::to_string(model) +
                      ", vec3(0.6), 0.3, o, x[0]);\n    return body.x;",
                  {{0.01f, 1}, {0, 1}, {0, 1}, {0, 1}, {0, 1}, {0, 1}, {0, 1}, {0, 1}},
                  [&, model](const float* x) {
                      return beneath_lobe(static_cast<brdf::Model>(model), surface(x), x[0]).x;
                  },
                  1e-4, {"OPTICS"});
        agree(
            b, "return throughSlab(x[0], vec3(x[1])).x;", {{0, 0.05f}, {0.002f, 0.02f}},
            [](const float* x) { return through_slab(x[0], glm::dvec3(x[1])).x; }, 1e-4);
        agree(
            b, "return wrappedRamp(x[0], vec3(x[1])).x;", {{-1, 1}, {0, 1}},
            [](const float* x) { return wrapped_ramp(x[0], glm::dvec3(x[1])).x; }, 1e-4);
    }

    void tone_and_transfer_functions_agree() {
        const std::vector<std::string> t = {"include/tone.glsl"};
        agree(
            t, "return reinhard(vec3(x[0]), x[1]).x;", {{0, 30}, {1, 20}},
            [](const float* x) { return tone::reinhard(x[0], x[1]); }, 1e-4);
        agree(
            t, "return filmic(vec3(x[0])).x;", {{0, 30}}, [](const float* x) { return tone::filmic(x[0]); }, 1e-4);
        agree(
            t, "return srgbEncode(vec3(x[0])).x;", {{0, 1}}, [](const float* x) { return srgb_encode(x[0]); }, 1e-4);
    }

    void ordered_patterns_are_permutations_of_their_steps() {
        for (const int bits : {2, 3}) {
            const int edge = 1 << bits, all = edge * edge;
            std::vector<float> rows;
            for (int i = 0; i < all; ++i)
                rows.insert(rows.end(), {float(i % edge), float(i / edge), float(bits), 0, 0, 0, 0, 0});
            auto got = on_device({"include/tone.glsl"},
                                 "return orderedPattern(ivec2(int(x[0]), int(x[1])), int(x[2]));", rows);
            for (int i = 0; i < all; ++i)
                QVERIFY(std::abs(got[std::size_t(i)] - ordered_pattern(i % edge, i / edge, bits)) < 1e-6);
            std::sort(got.begin(), got.end());
            for (int i = 0; i < all; ++i)
                QVERIFY(std::abs(got[std::size_t(i)] - ((float(i) + 0.5f) / float(all) - 0.5f)) < 1e-6f);
        }
    }

    /// The furnace: the GLSL lobe integrated on the device over the hemisphere against the C++ integral, within 1 %.
    void furnace_matches_numeric_integration() {
        std::vector<float> rows;
        const std::vector<std::pair<float, float>> cases = {
            {0.2f, 0.3f}, {0.5f, 0.2f}, {0.9f, 0.5f}, {0.7f, 0.8f}, {1.0f, 1.0f}};
        for (const auto& [c, rough] : cases)
            rows.insert(rows.end(), {c, rough, 0, 0, 0, 0, 0, 0});
        const auto got = on_device(
            {"include/brdf.glsl"},
            "vec3 v = vec3(sqrt(1.0 - x[0] * x[0]), 0.0, x[0]), d, s;\n    float sum = 0.0;\n    const int "
            "steps = 128;\n"
            "    for (int i = 0; i < steps; ++i)\n        for (int j = 0; j < 2 * steps; ++j) {\n"
            "            float z = (float(i) + 0.5) / float(steps), r = sqrt(1.0 - z * z), a = 2.0 * pi * "
            "(float(j) + 0.5) / float(2 * steps);\n"
            "            evaluateBrdf(MODEL_GGX, vec3(1.0), 1.0, x[1], opticsOf(0u), 1.0, true, vec3(0.0, 0.0, 1.0), "
            "vec3(r * cos(a), r * sin(a), z), v, d, s);\n"
            "            sum += s.x * z;\n        }\n    return sum * 2.0 * pi / float(2 * steps * steps);",
            rows);
        for (std::size_t i = 0; i < cases.size(); ++i) {
            const double wanted = brdf::ggx_directional_albedo(cases[i].first, cases[i].second, 400);
            QVERIFY2(std::abs(got[i] - wanted) < 0.01 * wanted,
                     qPrintable(QString("%1 against %2").arg(got[i]).arg(wanted)));
        }
    }

    void struct_offsets_agree_between_cpp_and_glsl() {
        using namespace gpu;
        const std::string text = "#version 450 core\n#include \"include/structs.glsl\"\nlayout(local_size_x = 1) "
                                 "in;\nlayout(std430) buffer Out { float o; };\n"
                                 "void main() { o = frame.depthFar + lights[0].cosOuter + float(draws[0].object) + "
                                 "float(materials[0].flags) + float(lightIndices[0]); }\n";
        auto program =
            build_program(session().shaders(), {{GL_COMPUTE_SHADER, "test", text}}, {}, gpu::generated_files({}));
        QVERIFY2(program.has_value(), program ? "" : to_text(program.error()).c_str());
        auto check = [&](const char* name, std::size_t offset, std::size_t stride) {
            const GLuint index = glGetProgramResourceIndex(program->name(), GL_BUFFER_VARIABLE, name);
            if (index == GL_INVALID_INDEX) return; // optimised away: another member of the struct speaks for it
            ++checked_;
            const GLenum properties[] = {GL_OFFSET, GL_TOP_LEVEL_ARRAY_STRIDE};
            GLint values[2] = {-1, -1};
            glGetProgramResourceiv(program->name(), GL_BUFFER_VARIABLE, index, 2, properties, 2, nullptr, values);
            QVERIFY2(values[0] == static_cast<GLint>(offset),
                     qPrintable(QString("%1: GLSL %2, C++ %3").arg(name).arg(values[0]).arg(offset)));
            if (stride) QVERIFY2(values[1] == static_cast<GLint>(stride), name);
        };
#define FRAME(member)                                                                                                  \
    check("FrameBuffer.frames[0]." #member, offsetof(FrameData, member), 0),                                           \
        check("frames[0]." #member, offsetof(FrameData, member), 0)
#define IN_ARRAY(block, array, Struct, member)                                                                         \
    check(block "." array "[0]." #member, offsetof(Struct, member), sizeof(Struct)),                                   \
        check(array "[0]." #member, offsetof(Struct, member), sizeof(Struct))
        FRAME(viewProjection);
        FRAME(inverseViewProjection);
        FRAME(eye);
        FRAME(forward);
        FRAME(time);
        FRAME(width);
        FRAME(height);
        FRAME(depthNear);
        FRAME(depthFar);
        IN_ARRAY("LightBuffer", "lights", LightData, position);
        IN_ARRAY("LightBuffer", "lights", LightData, range);
        IN_ARRAY("LightBuffer", "lights", LightData, direction);
        IN_ARRAY("LightBuffer", "lights", LightData, reach);
        IN_ARRAY("LightBuffer", "lights", LightData, intensity);
        IN_ARRAY("LightBuffer", "lights", LightData, type);
        IN_ARRAY("LightBuffer", "lights", LightData, cosInner);
        IN_ARRAY("LightBuffer", "lights", LightData, cosOuter);
        IN_ARRAY("DrawBuffer", "draws", DrawData, material);
        IN_ARRAY("DrawBuffer", "draws", DrawData, lightOffset);
        IN_ARRAY("DrawBuffer", "draws", DrawData, lightCount);
        IN_ARRAY("DrawBuffer", "draws", DrawData, object);
        IN_ARRAY("DrawBuffer", "draws", DrawData, unshadowed);
        IN_ARRAY("MaterialBuffer", "materials", MaterialData, baseColor);
        IN_ARRAY("MaterialBuffer", "materials", MaterialData, emissive);
        IN_ARRAY("MaterialBuffer", "materials", MaterialData, alphaCutoff);
        IN_ARRAY("MaterialBuffer", "materials", MaterialData, metallic);
        IN_ARRAY("MaterialBuffer", "materials", MaterialData, roughness);
        IN_ARRAY("MaterialBuffer", "materials", MaterialData, flags);
#undef FRAME
#undef IN_ARRAY
        QVERIFY2(checked_ >= 22, qPrintable(QString("only %1 members were found").arg(checked_)));
    }

    /// The structs of culling, ledger and probe, as the shaders that use them have them.
    void structs_of_instruments_and_lists_have_the_same_offsets() {
        using namespace gpu;
        const GeneratedFiles files = generated_files({});
        const auto offsets = [&](const std::vector<ShaderStage>& stages, const std::vector<std::string>& defines,
                                 const char* block, const char* prefix,
                                 std::initializer_list<std::pair<const char*, std::size_t>> members,
                                 std::size_t stride) {
            const auto program = build_program(session().shaders(), stages, defines, files);
            QVERIFY2(program.has_value(), program ? "" : to_text(program.error()).c_str());
            int found = 0;
            for (const auto& [member, offset] : members)
                for (const std::string& name :
                     {std::string(prefix) + member, std::string(block) + "." + prefix + member}) {
                    const GLuint index = glGetProgramResourceIndex(program->name(), GL_BUFFER_VARIABLE, name.c_str());
                    if (index == GL_INVALID_INDEX) continue;
                    const GLenum properties[] = {GL_OFFSET, GL_TOP_LEVEL_ARRAY_STRIDE};
                    GLint values[2] = {-1, -1};
                    glGetProgramResourceiv(program->name(), GL_BUFFER_VARIABLE, index, 2, properties, 2, nullptr,
                                           values);
                    QVERIFY2(values[0] == static_cast<GLint>(offset),
                             qPrintable(QString("%1: GLSL %2, C++ %3").arg(name.c_str()).arg(values[0]).arg(offset)));
                    if (stride) QVERIFY2(values[1] == static_cast<GLint>(stride), name.c_str());
                    ++found;
                }
            QVERIFY2(found >= 3, qPrintable(QString("%1: only %2 members were found").arg(block).arg(found)));
        };
        const std::vector<ShaderStage> cull = {{GL_COMPUTE_SHADER, "light_lists/cull.glsl", ""}};
        const std::vector<ShaderStage> surface = {{GL_VERTEX_SHADER, "surface/vertex.glsl", ""},
                                                  {GL_FRAGMENT_SHADER, "surface/fragment.glsl", ""}};
#define MEMBER(Struct, name) {#name, offsetof(Struct, name)}
        offsets(cull, {"LANES 8"}, "GridBuffer", "grid.",
                {MEMBER(GridData, columns), MEMBER(GridData, rows), MEMBER(GridData, slices), MEMBER(GridData, tile),
                 MEMBER(GridData, capacity), MEMBER(GridData, depthBounds), MEMBER(GridData, test),
                 MEMBER(GridData, coneTest), MEMBER(GridData, sliceNear), MEMBER(GridData, sliceFar),
                 MEMBER(GridData, cameraNear), MEMBER(GridData, firstBounded), MEMBER(GridData, lightCount),
                 MEMBER(GridData, transparent), MEMBER(GridData, extent), MEMBER(GridData, sliceExponent),
                 MEMBER(GridData, eyeStride)},
                0);
        offsets(cull, {"LANES 8"}, "CullLightBuffer", "cullLights[0].",
                {MEMBER(CullLightData, bounds), MEMBER(CullLightData, position), MEMBER(CullLightData, direction),
                 MEMBER(CullLightData, more)},
                sizeof(CullLightData));
        offsets({{GL_COMPUTE_SHADER, "visibility/commands.glsl", ""}}, {}, "AllInstanceBuffer", "allInstances[0].",
                {{"model[0]", offsetof(InstanceData, model)},
                 {"normal[0]", offsetof(InstanceData, normal)},
                 MEMBER(InstanceData, number),
                 MEMBER(InstanceData, body),
                 MEMBER(InstanceData, map),
                 MEMBER(InstanceData, openness)},
                sizeof(InstanceData));
        offsets(surface, {"PASS_LIT", "LEDGER"}, "LedgerBuffer", "ledger[0].",
                {MEMBER(LedgerData, evaluations), MEMBER(LedgerData, low), MEMBER(LedgerData, high)},
                sizeof(LedgerData));
        offsets(surface, {"PASS_LIT", "OPTICS", "SUBSURFACE", "SUBSURFACE_WRAPPED", "SUBSURFACE_THICKNESS 2"},
                "OpticsBuffer", "allOptics[0].",
                {MEMBER(OpticsData, f0), MEMBER(OpticsData, f90), MEMBER(OpticsData, scatter),
                 MEMBER(OpticsData, farthest), MEMBER(OpticsData, coat), MEMBER(OpticsData, coatRoughness),
                 MEMBER(OpticsData, thickness)},
                sizeof(OpticsData));
        const std::vector<ShaderStage> flatLights = {{GL_VERTEX_SHADER, "flat_stage/lights_vertex.glsl", ""},
                                                     {GL_FRAGMENT_SHADER, "flat_stage/lights_fragment.glsl", ""}};
        offsets(flatLights, {"SURFACE"}, "FlatLightBuffer", "flatLights[0].",
                {MEMBER(FlatLightData, place), MEMBER(FlatLightData, height), MEMBER(FlatLightData, range),
                 MEMBER(FlatLightData, direction), MEMBER(FlatLightData, cosInner), MEMBER(FlatLightData, cosOuter),
                 MEMBER(FlatLightData, color), MEMBER(FlatLightData, kind), MEMBER(FlatLightData, axis),
                 MEMBER(FlatLightData, extent), MEMBER(FlatLightData, profile), MEMBER(FlatLightData, layers),
                 MEMBER(FlatLightData, falloff), MEMBER(FlatLightData, rise), MEMBER(FlatLightData, casts),
                 MEMBER(FlatLightData, size)},
                sizeof(FlatLightData));
        offsets(flatLights, {}, "FlatFanBuffer", "fan[0].",
                {MEMBER(FanPointData, place), MEMBER(FanPointData, light), MEMBER(FanPointData, whole)},
                sizeof(FanPointData));
        offsets({{GL_VERTEX_SHADER, "flat_stage/quads_vertex.glsl", ""},
                 {GL_FRAGMENT_SHADER, "flat_stage/quads_fragment.glsl", ""}},
                {}, "TallEdgeBuffer", "edges[0].",
                {MEMBER(TallEdgeData, a), MEMBER(TallEdgeData, b), MEMBER(TallEdgeData, height)}, sizeof(TallEdgeData));
        offsets(
            {{GL_VERTEX_SHADER, "flat_stage/vertex.glsl", ""}, {GL_FRAGMENT_SHADER, "flat_stage/fragment.glsl", ""}},
            {"SURFACE 1", "GLOW 2"}, "QuadBuffer", "quads[0].",
            {MEMBER(flat::Quad, middle), MEMBER(flat::Quad, right), MEMBER(flat::Quad, up), MEMBER(flat::Quad, uvLow),
             MEMBER(flat::Quad, uvSize), MEMBER(flat::Quad, glow), MEMBER(flat::Quad, tint), MEMBER(flat::Quad, layer),
             MEMBER(flat::Quad, flags), MEMBER(flat::Quad, sprite)},
            sizeof(flat::Quad));
        const std::vector<ShaderStage> cells = {{GL_VERTEX_SHADER, "blocks/vertex.glsl", ""},
                                                {GL_FRAGMENT_SHADER, "blocks/clear.glsl", ""}};
        offsets(cells, {"BLOCK_WAY 3"}, "BlockPartBuffer", "blockParts[0].",
                {MEMBER(BlockPartData, toWorld), MEMBER(BlockPartData, fromWorld), MEMBER(BlockPartData, chunks),
                 MEMBER(BlockPartData, size), MEMBER(BlockPartData, tree)},
                sizeof(BlockPartData));
        offsets(cells, {"BLOCK_WAY 3"}, "BlockPaletteBuffer", "blockPalette[0].",
                {MEMBER(BlockMaterialData, color), MEMBER(BlockMaterialData, surface), MEMBER(BlockMaterialData, lamp)},
                sizeof(BlockMaterialData));
        offsets(cells, {"BLOCK_WAY 3"}, "BlockChunkBuffer", "blockChunks[0].",
                {MEMBER(BlockChunkData, light), MEMBER(BlockChunkData, all), MEMBER(BlockChunkData, extra)},
                sizeof(BlockChunkData));
        offsets({{GL_VERTEX_SHADER, "screen/vertex.glsl", ""}, {GL_FRAGMENT_SHADER, "blocks/trace.glsl", ""}}, {},
                "BlockTreeBuffer", "treeNodes[0].",
                {MEMBER(blocks::TreeNode, low), MEMBER(blocks::TreeNode, high), MEMBER(blocks::TreeNode, first)},
                sizeof(blocks::TreeNode));
        offsets(surface, {"PASS_PROBE"}, "ProbeBuffer", "probe[0].",
                {{"position", 16 + offsetof(ProbeData, position)},
                 {"normal", 16 + offsetof(ProbeData, normal)},
                 {"baseColor", 16 + offsetof(ProbeData, baseColor)},
                 {"emissive", 16 + offsetof(ProbeData, emissive)},
                 {"ambient", 16 + offsetof(ProbeData, ambient)},
                 {"draw", 16 + offsetof(ProbeData, draw)},
                 {"triangle", 16 + offsetof(ProbeData, triangle)}},
                sizeof(ProbeData));
#undef MEMBER
    }

private:
    int checked_ = 0;
};

MIROLUX_TEST(reference_test)
#include "reference_test.moc"

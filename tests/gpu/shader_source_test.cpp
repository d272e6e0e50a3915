#include "core/io/file.h"
#include "session_fixture.h"
#include <set>

using namespace mirolux;
using namespace mirolux::test;

class shader_source_test : public QObject {
    Q_OBJECT
private slots:
    void includes_go_in_once_and_defines_after_the_version() {
        const gpu::ShaderLibrary library;
        const auto s =
            library.assemble("surface/fragment.glsl", {"PASS_LIT", "SHADING_MODEL 3"}, gpu::generated_files({}));
        QVERIFY(s.has_value());
        QVERIFY(s->text.rfind("#version 450 core\n#define PASS_LIT\n#define SHADING_MODEL 3\n", 0) == 0);
        std::size_t count = 0;
        for (std::size_t at = 0; (at = s->text.find("struct FrameData", at)) != std::string::npos; ++at)
            ++count;
        QCOMPARE(count, std::size_t(1));
        QVERIFY(std::find(s->files.begin(), s->files.end(), "include/brdf.glsl") != s->files.end());
    }

    void line_marks_lead_back_to_the_file() {
        const gpu::ShaderLibrary library;
        const auto s =
            library.assemble_text("mine.glsl", "#version 450 core\n#include \"include/light.glsl\"\nint x;\n", {"A"});
        QVERIFY(s.has_value());
        QVERIFY(s->text.find("#line 3 0\nint x;") != std::string::npos);
        QCOMPARE(gpu::ShaderLibrary::first_place("1:7(3): error: bad", *s), std::string("include/light.glsl:7"));
        QCOMPARE(gpu::ShaderLibrary::first_place("0(3) : error C1: bad", *s), std::string("mine.glsl:3"));
        QVERIFY(gpu::ShaderLibrary::readable_log("1:7(3): error: bad", *s).find("include/light.glsl:7") == 0);
    }

    void a_missing_include_names_the_line_and_the_nearest_file() {
        const gpu::ShaderLibrary library;
        const auto s = library.assemble_text("mine.glsl", "#version 450 core\n\n#include \"include/lihgt.glsl\"\n", {});
        QVERIFY(!s.has_value());
        QCOMPARE(s.error().where, std::string("mine.glsl:3"));
        QVERIFY(s.error().remedy.find("include/light.glsl") != std::string::npos);
    }

    void a_folder_stands_before_the_built_in_files_and_its_stamp_follows_changes() {
        QTemporaryDir folder;
        const gpu::ShaderLibrary library(folder.path().toStdString());
        QVERIFY(QDir(folder.path()).mkpath("screen"));
        const auto before = library.stamp();
        QVERIFY(write_file_atomically(folder.path().toStdString() + "/screen/vertex.glsl",
                                      std::string("#version 450 core\nvoid main() {}\n"))
                    .has_value());
        QVERIFY(library.stamp() != before);
        const auto s = library.assemble("screen/vertex.glsl", {});
        QVERIFY(s.has_value());
        QVERIFY(s->files[0].find(folder.path().toStdString()) == 0);
    }

    void every_variant_of_the_surface_shader_compiles() {
        const gpu::ShaderLibrary& library = session().shaders();
        const gpu::GeneratedFiles plain = gpu::generated_files({});
        const gpu::GeneratedFiles layers = gpu::with_layers(plain, {find_layer("albedo"), find_layer("emissive")});
        for (const char* what : {"PASS_LIT", "PASS_AMBIENT", "PASS_LIGHT", "PASS_LAYERS", "PASS_GBUFFER", "PASS_PROBE"})
            for (const char* lights : {"LIGHTS_OF 0", "LIGHTS_OF 1", "LIGHTS_OF 3"})
                for (const int model : {0, 1, 2, 3})
                    for (const char* more : {"", "ALPHA_MASK", "COUNT", "LEDGER"}) {
                        std::vector<std::string> defines = {what, lights, "SHADING_MODEL " + std::to_string(model)};
                        if (*more) defines.push_back(more);
                        const auto p = gpu::build_program(library,
                                                          {{GL_VERTEX_SHADER, "surface/vertex.glsl", ""},
                                                           {GL_FRAGMENT_SHADER, "surface/fragment.glsl", ""}},
                                                          defines, layers);
                        QVERIFY2(p.has_value(), p ? "" : to_text(p.error()).c_str());
                    }
    }

    void units_and_binding_points_come_from_what_a_program_reads() {
        const auto p = gpu::build_program(
            session().shaders(),
            {{GL_VERTEX_SHADER, "screen/vertex.glsl", ""}, {GL_FRAGMENT_SHADER, "deferred_shading/fragment.glsl", ""}},
            {"LIGHTS_OF 2"}, gpu::generated_files({}));
        QVERIFY2(p.has_value(), p ? "" : to_text(p.error()).c_str());
        for (const char* sampler : {"baseColorMetallic", "normals", "roughnessUnlit", "depthTexture"})
            QVERIFY2(p->samplers.contains(sampler), sampler);
        std::set<GLuint> units, points;
        for (const auto& [name, unit] : p->samplers)
            units.insert(unit);
        for (const auto& [name, point] : p->blocks)
            points.insert(point);
        QCOMPARE(units.size(), p->samplers.size());
        QCOMPARE(points.size(), p->blocks.size());
        QVERIFY(p->blocks.contains("LightBuffer") && !p->samplers.contains("baseColorTexture"));
        QVERIFY(p->uniforms.contains("lightCount"));
    }
};

MIROLUX_TEST(shader_source_test)
#include "shader_source_test.moc"

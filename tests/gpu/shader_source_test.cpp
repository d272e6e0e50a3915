#include "core/io/file.h"
#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

class shader_source_test : public QObject {
    Q_OBJECT
private slots:
    void includes_go_in_once_and_defines_after_the_version() {
        const gpu::ShaderLibrary library;
        const auto s = library.assemble("surface_fragment.glsl", {"PASS_FORWARD", "SHADING_MODEL 3"});
        QVERIFY(s.has_value());
        QVERIFY(s->text.rfind("#version 450 core\n#define PASS_FORWARD\n#define SHADING_MODEL 3\n", 0) == 0);
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
        const auto before = library.stamp();
        QVERIFY(write_file_atomically(folder.path().toStdString() + "/screen_vertex.glsl",
                                      std::string("#version 450 core\nvoid main() {}\n"))
                    .has_value());
        QVERIFY(library.stamp() != before);
        const auto s = library.assemble("screen_vertex.glsl", {});
        QVERIFY(s.has_value());
        QVERIFY(s->files[0].find(folder.path().toStdString()) == 0);
    }

    void every_shader_file_of_every_pass_compiles_in_every_variant() {
        const gpu::ShaderLibrary& library = session().shaders();
        for (const char* what :
             {"PASS_FORWARD", "PASS_AMBIENT", "PASS_LIGHT", "PASS_LAYERS", "PASS_LISTED", "PASS_GBUFFER"})
            for (const int model : {0, 1, 2, 3})
                for (const bool masked : {false, true})
                    for (const bool count : {false, true}) {
                        std::vector<std::string> defines = {what, "SHADING_MODEL " + std::to_string(model)};
                        if (masked) defines.push_back("ALPHA_MASK");
                        if (count) defines.push_back("COUNT");
                        const auto p = gpu::build_program(library,
                                                          {{GL_VERTEX_SHADER, "mesh_vertex.glsl", ""},
                                                           {GL_FRAGMENT_SHADER, "surface_fragment.glsl", ""}},
                                                          defines);
                        QVERIFY2(p.has_value(), p ? "" : to_text(p.error()).c_str());
                    }
    }
};

MIROLUX_TEST(shader_source_test)
#include "shader_source_test.moc"

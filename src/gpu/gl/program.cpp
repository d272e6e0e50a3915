#include "gpu/gl/program.h"
#include "core/base/text.h"

namespace mirolux::gpu {

Result<Program> build_program(const ShaderLibrary& library, const std::vector<ShaderStage>& stages,
                              const std::vector<std::string>& defines) {
    Program program(glCreateProgram());
    std::vector<GLuint> shaders;
    auto release = [&] {
        for (const GLuint s : shaders)
            glDeleteShader(s);
    };
    std::string name;
    for (const ShaderStage& stage : stages) {
        auto source = stage.text.empty() ? library.assemble(stage.file, defines)
                                         : library.assemble_text(stage.file, stage.text, defines);
        if (!source) {
            release();
            return tl::unexpected(source.error());
        }
        name += (name.empty() ? "" : " + ") + stage.file;
        const GLuint shader = glCreateShader(stage.stage);
        shaders.push_back(shader);
        const char* text = source->text.c_str();
        glShaderSource(shader, 1, &text, nullptr);
        glCompileShader(shader);
        GLint ok = 0;
        glGetShaderiv(shader, GL_COMPILE_STATUS, &ok);
        if (!ok) {
            GLint length = 0;
            glGetShaderiv(shader, GL_INFO_LOG_LENGTH, &length);
            std::string log(static_cast<std::size_t>(std::max(length, 1)), '\0');
            glGetShaderInfoLog(shader, length, nullptr, log.data());
            std::string place = ShaderLibrary::first_place(log, *source);
            release();
            return fail("the shader does not compile: " + ShaderLibrary::readable_log(log, *source),
                        place.empty() ? source->files.front() : place,
                        "Mend the shader; it is tried again when the file changes.");
        }
        glAttachShader(program.name(), shader);
    }
    glLinkProgram(program.name());
    release();
    GLint ok = 0;
    glGetProgramiv(program.name(), GL_LINK_STATUS, &ok);
    if (!ok) {
        GLint length = 0;
        glGetProgramiv(program.name(), GL_INFO_LOG_LENGTH, &length);
        std::string log(static_cast<std::size_t>(std::max(length, 1)), '\0');
        glGetProgramInfoLog(program.name(), length, nullptr, log.data());
        return fail("the shaders do not link: " + log, name,
                    "Mend the shaders; they are tried again when a file changes.");
    }
    glObjectLabel(GL_PROGRAM, program.name(), -1, (name + " " + joined(defines, " ")).substr(0, 200).c_str());
    return program;
}

Result<GLuint> ProgramCache::get(const std::string& vertexFile, const std::string& fragmentFile,
                                 const std::vector<std::string>& defines) {
    for (const char* instrument : {"COUNT", "LEDGER", "PASS_PROBE"})
        if (std::find(defines.begin(), defines.end(), instrument) != defines.end()) ++instrumentedUses_;
    const std::string key = vertexFile + "|" + fragmentFile + "|" + joined(defines, "|");
    const auto it = programs_.find(key);
    if (it != programs_.end()) return it->second.name();
    auto program =
        build_program(library_, {{GL_VERTEX_SHADER, vertexFile, ""}, {GL_FRAGMENT_SHADER, fragmentFile, ""}}, defines);
    if (!program) return tl::unexpected(program.error());
    const GLuint name = program->name();
    programs_.emplace(key, std::move(*program));
    return name;
}

Result<GLuint> ProgramCache::get_compute(const std::string& file, const std::vector<std::string>& defines) {
    if (std::find(defines.begin(), defines.end(), "COUNT") != defines.end()) ++instrumentedUses_;
    const std::string key = file + "|" + joined(defines, "|");
    const auto it = programs_.find(key);
    if (it != programs_.end()) return it->second.name();
    auto program = build_program(library_, {{GL_COMPUTE_SHADER, file, ""}}, defines);
    if (!program) return tl::unexpected(program.error());
    const GLuint name = program->name();
    programs_.emplace(key, std::move(*program));
    return name;
}

bool ProgramCache::refresh() {
    const std::uint64_t now = library_.stamp();
    if (now == stamp_) return false;
    stamp_ = now;
    programs_.clear();
    return true;
}

} // namespace mirolux::gpu

#include "gpu/gl/program.h"
#include "core/base/text.h"
#include <algorithm>

namespace mirolux::gpu {

namespace {

/// The log of a shader or a program, through the two functions that GL has for either.
template <class Get, class Log>
std::string log_of(GLuint name, Get get, Log log) {
    GLint length = 0;
    get(name, GL_INFO_LOG_LENGTH, &length);
    std::string text(static_cast<std::size_t>(std::max(length, 1)), '\0');
    log(name, length, nullptr, text.data());
    return text;
}

std::string resource_name(GLuint program, GLenum interface, GLuint index) {
    char text[128] = {};
    glGetProgramResourceName(program, interface, index, sizeof text, nullptr, text);
    return text;
}

GLint resource_count(GLuint program, GLenum interface) {
    GLint count = 0;
    glGetProgramInterfaceiv(program, interface, GL_ACTIVE_RESOURCES, &count);
    return count;
}

bool is_sampler(GLint type) {
    switch (type) {
    case GL_SAMPLER_2D:
    case GL_SAMPLER_2D_MULTISAMPLE:
    case GL_SAMPLER_3D:
    case GL_SAMPLER_CUBE:
    case GL_SAMPLER_2D_ARRAY:
    case GL_SAMPLER_CUBE_MAP_ARRAY:
    case GL_SAMPLER_2D_SHADOW:
    case GL_SAMPLER_2D_ARRAY_SHADOW:
    case GL_SAMPLER_CUBE_SHADOW:
    case GL_SAMPLER_CUBE_MAP_ARRAY_SHADOW:
    case GL_SAMPLER_BUFFER:
    case GL_INT_SAMPLER_2D:
    case GL_UNSIGNED_INT_SAMPLER_2D:
    case GL_UNSIGNED_INT_SAMPLER_BUFFER:
        return true;
    default:
        return false;
    }
}

/// Names to units, binding points and locations.
void assign_names(BuiltProgram& p) {
    const GLuint program = p.name();
    for (GLint i = 0; i < resource_count(program, GL_UNIFORM); ++i) {
        const GLenum wanted[] = {GL_LOCATION, GL_TYPE};
        GLint values[2] = {};
        glGetProgramResourceiv(program, GL_UNIFORM, static_cast<GLuint>(i), 2, wanted, 2, nullptr, values);
        if (values[0] < 0) continue; // inside a block
        const std::string name = resource_name(program, GL_UNIFORM, static_cast<GLuint>(i));
        if (values[1] == GL_IMAGE_2D && name.ends_with("Image")) { // others are bound by the pass itself
            const auto unit = static_cast<GLuint>(p.images.size());
            p.images[name] = unit;
            glProgramUniform1i(program, values[0], static_cast<GLint>(unit));
            continue;
        }
        if (!is_sampler(values[1])) {
            p.uniforms[name] = values[0];
            continue;
        }
        const auto unit = static_cast<GLuint>(p.samplers.size());
        p.samplers[name] = unit;
        glProgramUniform1i(program, values[0], static_cast<GLint>(unit));
    }
    for (GLint i = 0; i < resource_count(program, GL_SHADER_STORAGE_BLOCK); ++i) {
        const auto binding = static_cast<GLuint>(p.blocks.size());
        p.blocks[resource_name(program, GL_SHADER_STORAGE_BLOCK, static_cast<GLuint>(i))] = binding;
        glShaderStorageBlockBinding(program, static_cast<GLuint>(i), binding);
    }
}

std::string stage_names(const std::vector<ShaderStage>& stages) {
    std::string name;
    for (const ShaderStage& s : stages)
        name += (name.empty() ? "" : " + ") + s.file;
    return name;
}

/// A compiled shader for its lifetime.
struct Shader {
    GLuint name;
    explicit Shader(GLenum stage) : name(glCreateShader(stage)) {}
    ~Shader() { glDeleteShader(name); }
    Shader(const Shader&) = delete;
    Shader& operator=(const Shader&) = delete;
};

} // namespace

Result<BuiltProgram> build_program(const ShaderLibrary& library, const std::vector<ShaderStage>& stages,
                                   const std::vector<std::string>& defines, const GeneratedFiles& generated) {
    BuiltProgram built;
    built.program = Program(glCreateProgram());
    for (const ShaderStage& stage : stages) {
        auto source = stage.text.empty() ? library.assemble(stage.file, defines, generated)
                                         : library.assemble_text(stage.file, stage.text, defines, generated);
        if (!source) return tl::unexpected(source.error());
        const Shader shader(stage.stage);
        const char* text = source->text.c_str();
        glShaderSource(shader.name, 1, &text, nullptr);
        glCompileShader(shader.name);
        GLint ok = 0;
        glGetShaderiv(shader.name, GL_COMPILE_STATUS, &ok);
        if (!ok) {
            const std::string log = log_of(shader.name, glGetShaderiv, glGetShaderInfoLog);
            const std::string place = ShaderLibrary::first_place(log, *source);
            return fail("the shader does not compile: " + ShaderLibrary::readable_log(log, *source),
                        place.empty() ? source->files.front() : place,
                        "Mend the shader; it is tried again when the file changes.");
        }
        glAttachShader(built.name(), shader.name); // lives on in the program
    }
    glLinkProgram(built.name());
    const std::string name = stage_names(stages);
    GLint ok = 0;
    glGetProgramiv(built.name(), GL_LINK_STATUS, &ok);
    if (!ok)
        return fail("the shaders do not link: " + log_of(built.name(), glGetProgramiv, glGetProgramInfoLog), name,
                    "Mend the shaders; they are tried again when a file changes.");
    glObjectLabel(GL_PROGRAM, built.name(), -1, (name + " " + joined(defines, " ")).substr(0, 200).c_str());
    assign_names(built);
    return built;
}

Result<ProgramPtr> ProgramCache::get(const std::vector<ShaderStage>& stages, const std::vector<std::string>& defines,
                                     const GeneratedFiles& generated) {
    for (const char* instrument : {"COUNT", "LEDGER", "PASS_PROBE"})
        if (std::find(defines.begin(), defines.end(), instrument) != defines.end()) ++instrumentedUses_;
    const std::string key = stage_names(stages) + "|" + joined(defines, "|") + "|" + generated.digest;
    if (const auto it = programs_.find(key); it != programs_.end()) {
        order_.splice(order_.begin(), order_, it->second.use);
        return it->second.program;
    }
    if (building_) building_(stage_names(stages));
    auto program = build_program(library_, stages, defines, generated);
    if (!program) return tl::unexpected(program.error());
    order_.push_front(key);
    const auto shared = std::make_shared<const BuiltProgram>(std::move(*program));
    programs_[key] = {shared, order_.begin()};
    while (programs_.size() > most) {
        programs_.erase(order_.back());
        order_.pop_back();
    }
    return shared;
}

bool ProgramCache::refresh() {
    const std::uint64_t now = library_.stamp();
    if (now == stamp_) return false;
    stamp_ = now;
    programs_.clear();
    order_.clear();
    return true;
}

} // namespace mirolux::gpu

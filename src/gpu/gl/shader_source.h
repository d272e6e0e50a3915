#pragma once
#include "core/base/error.h"
#include <map>
#include <string>
#include <vector>

namespace mirolux::gpu {

/// Every shader file as built in: path below src/gpu/shaders -> text.
const std::map<std::string, std::string>& embedded_shaders();

/// Shader files that are written for a frame: parameters, counters, slots, layers. They are included as
/// generated/<name>.
struct GeneratedFiles {
    std::map<std::string, std::string> files;
    std::string digest; // of all texts: part of a program's key
};

/// Where shader text comes from: the folder's file if there is one of that name, else the built-in one.
class ShaderLibrary {
public:
    explicit ShaderLibrary(std::string folder = {}) : folder_(std::move(folder)) {}

    /// A shader with its includes in place, each once, `#define`s after #version, and #line marks whose source numbers
    /// index `files`.
    struct Source {
        std::string text;
        std::vector<std::string> files; // as a person would open them
    };
    Result<Source> assemble(const std::string& file, const std::vector<std::string>& defines,
                            const GeneratedFiles& generated = {}) const;
    /// Assembles from a text instead of a file (tests use it); includes come from the library.
    Result<Source> assemble_text(const std::string& name, const std::string& text,
                                 const std::vector<std::string>& defines, const GeneratedFiles& generated = {}) const;

    /// The driver's log with each "source:line" turned into a file and a line.
    static std::string readable_log(const std::string& log, const Source& source);
    /// Place of the first message of a log: "file:line", or empty.
    static std::string first_place(const std::string& log, const Source& source);

    /// Changes whenever a file in the folder does; 0 without a folder.
    std::uint64_t stamp() const;
    const std::string& folder() const { return folder_; }

private:
    Result<std::string> text_of(const std::string& file, const GeneratedFiles& generated, std::string& shownAs) const;
    Result<void> append(const std::string& text, int number, const GeneratedFiles& generated, Source& source,
                        std::map<std::string, int>& included) const;
    std::string folder_;
};

} // namespace mirolux::gpu

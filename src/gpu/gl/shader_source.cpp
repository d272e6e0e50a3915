#include "gpu/gl/shader_source.h"
#include "core/base/text.h"
#include "core/io/file.h"
#include <cstring>
#include <regex>
#include <sstream>

namespace mirolux::gpu {

Result<std::string> ShaderLibrary::text_of(const std::string& file, const GeneratedFiles& generated,
                                           std::string& shownAs) const {
    if (const auto it = generated.files.find(file); it != generated.files.end()) {
        shownAs = file;
        return it->second;
    }
    if (!folder_.empty()) {
        const auto path = std::filesystem::path(folder_) / file;
        std::error_code ec;
        if (std::filesystem::exists(path, ec)) {
            auto bytes = read_file(path);
            if (!bytes) return tl::unexpected(bytes.error());
            shownAs = path.string();
            return std::string(bytes->begin(), bytes->end());
        }
    }
    shownAs = file;
    const auto it = embedded_shaders().find(file);
    if (it == embedded_shaders().end()) {
        std::vector<std::string> names;
        for (const auto& [name, text] : embedded_shaders())
            names.push_back(name);
        const auto near = nearest_words(file, names);
        return fail("there is no shader file of this name", file, near.empty() ? "" : "Nearest: " + joined(near) + ".");
    }
    return it->second;
}

Result<void> ShaderLibrary::append(const std::string& text, int number, const GeneratedFiles& generated, Source& source,
                                   std::map<std::string, int>& included) const {
    std::istringstream lines(text);
    std::string line;
    for (int n = 1; std::getline(lines, line); ++n) {
        const auto start = line.find_first_not_of(" \t");
        if (start != std::string::npos && line.compare(start, 8, "#include") == 0) {
            const auto open = line.find('"'), close = line.rfind('"');
            if (open == std::string::npos || close <= open)
                return fail("#include needs a file name in quotes", source.files[number] + ":" + std::to_string(n));
            const std::string name = line.substr(open + 1, close - open - 1);
            if (included.contains(name)) {
                source.text += "\n";
                continue;
            }
            std::string shownAs;
            auto inner = text_of(name, generated, shownAs);
            if (!inner)
                return fail(inner.error().what + ": " + name, source.files[number] + ":" + std::to_string(n),
                            inner.error().remedy);
            const int innerNumber = static_cast<int>(source.files.size());
            included[name] = innerNumber;
            source.files.push_back(shownAs);
            source.text += "#line 1 " + std::to_string(innerNumber) + "\n";
            if (auto done = append(*inner, innerNumber, generated, source, included); !done) return done;
            source.text += "#line " + std::to_string(n + 1) + " " + std::to_string(number) + "\n";
        } else
            source.text += line + "\n";
        // A branch that is not taken swallows the marks of what it includes: they are set anew where branches end.
        for (const char* directive : {"#endif", "#else", "#elif"})
            if (start != std::string::npos && line.compare(start, std::strlen(directive), directive) == 0)
                source.text += "#line " + std::to_string(n + 1) + " " + std::to_string(number) + "\n";
    }
    return {};
}

Result<ShaderLibrary::Source> ShaderLibrary::assemble_text(const std::string& name, const std::string& text,
                                                           const std::vector<std::string>& defines,
                                                           const GeneratedFiles& generated) const {
    Source source;
    source.files.push_back(name);
    std::string head, rest = text;
    if (text.rfind("#version", 0) == 0) {
        const auto end = text.find('\n');
        head = text.substr(0, end + 1);
        rest = text.substr(end + 1);
    }
    source.text = head;
    for (const std::string& d : defines)
        source.text += "#define " + d + "\n";
    source.text += "#line 2 0\n";
    // Lines of `rest` start at 2 of the file; append counts from 1, so it gets an empty first line that is cut off
    // again.
    std::map<std::string, int> included;
    Source body = source;
    body.text.clear();
    if (auto done = append("\n" + rest, 0, generated, body, included); !done) return tl::unexpected(done.error());
    source.files = body.files;
    source.text += body.text.substr(1);
    return source;
}

Result<ShaderLibrary::Source> ShaderLibrary::assemble(const std::string& file, const std::vector<std::string>& defines,
                                                      const GeneratedFiles& generated) const {
    std::string shownAs;
    auto text = text_of(file, generated, shownAs);
    if (!text) return tl::unexpected(text.error());
    return assemble_text(shownAs, *text, defines, generated);
}

// "0:12(3): error: ..." and "0(12) : error ..." are the two forms in which drivers name a place.
static const std::regex& place_pattern() {
    static const std::regex pattern(R"((^|\n)(\d+)[:(](\d+)[:)(])");
    return pattern;
}

std::string ShaderLibrary::readable_log(const std::string& log, const Source& source) {
    std::string out;
    auto from = log.cbegin();
    std::smatch m;
    while (std::regex_search(from, log.cend(), m, place_pattern())) {
        const auto number = static_cast<std::size_t>(std::stoi(m[2].str()));
        out.append(from, from + m.position(0));
        out +=
            m[1].str() + (number < source.files.size() ? source.files[number] : m[2].str()) + ":" + m[3].str() + " (";
        from += m.position(0) + m.length(0);
    }
    out.append(from, log.cend());
    while (!out.empty() && (out.back() == '\n' || out.back() == '\0'))
        out.pop_back();
    return out;
}

std::string ShaderLibrary::first_place(const std::string& log, const Source& source) {
    // Some drivers say source 0 for an unknown function in an included file, and name the right source for what follows
    // from it on the same line; the later message is then the one to trust.
    std::size_t file = 0;
    std::string line;
    for (auto it = std::sregex_iterator(log.begin(), log.end(), place_pattern()); it != std::sregex_iterator(); ++it) {
        const auto number = static_cast<std::size_t>(std::stoi((*it)[2].str()));
        if (line.empty())
            file = number, line = (*it)[3].str();
        else if (file == 0 && (*it)[3].str() == line)
            file = number;
    }
    return !line.empty() && file < source.files.size() ? source.files[file] + ":" + line : std::string();
}

std::uint64_t ShaderLibrary::stamp() const {
    if (folder_.empty()) return 0;
    Digest digest;
    std::error_code ec;
    std::vector<std::pair<std::string, std::int64_t>> files;
    for (const auto& entry : std::filesystem::recursive_directory_iterator(folder_, ec))
        if (entry.path().extension() == ".glsl")
            files.emplace_back(entry.path().string(),
                               std::filesystem::last_write_time(entry.path(), ec).time_since_epoch().count());
    std::sort(files.begin(), files.end());
    for (const auto& [name, time] : files) {
        digest.add(name.data(), name.size());
        digest.add(&time, sizeof time);
    }
    return digest.value;
}

} // namespace mirolux::gpu

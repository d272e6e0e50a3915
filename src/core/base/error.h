#pragma once
#include <string>
#include <tl/expected.hpp>

namespace mirolux {

/// A failure with a user's reason: a file, a shader, a device. Said once, with its place and its remedy.
struct Error {
    std::string what;   // what is wrong, one sentence without a full stop
    std::string where;  // file and JSON pointer, shader file and line, or setting key; may be empty
    std::string remedy; // what to do; may be empty
};

template <class T>
using Result = tl::expected<T, Error>;

inline tl::unexpected<Error> fail(std::string what, std::string where = {}, std::string remedy = {}) {
    return tl::unexpected<Error>(Error{std::move(what), std::move(where), std::move(remedy)});
}

/// "place: what. remedy": the one form in which errors are shown everywhere.
inline std::string to_text(const Error& error) {
    std::string text = error.where.empty() ? error.what : error.where + ": " + error.what;
    if (!text.empty() && text.back() != '.') text += '.';
    if (!error.remedy.empty()) text += " " + error.remedy;
    return text;
}

} // namespace mirolux

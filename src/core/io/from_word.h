#pragma once
#include "core/io/json_cursor.h"

namespace mirolux {

/// The value that a text means, of those that `word` has words for.
template <class E, std::size_t N>
E from_word(const JsonCursor& json, const E (&values)[N]) {
    const std::string text = json.text();
    for (const E v : values)
        if (text == word(v)) return v;
    std::string all;
    for (const E v : values)
        all += std::string(all.empty() ? "" : ", ") + word(v);
    json.complain("is \"" + text + "\", not one of " + all);
}

} // namespace mirolux

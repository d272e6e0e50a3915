#pragma once
#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace mirolux {

/// The present time as ISO 8601 in UTC, "2031-04-05T06:07:08Z".
std::string utc_now();

/// Shortest text that says `value` to `digits` significant digits ("16.67", "0.5", "1200").
std::string number_text(double value, int digits = 4);

/// The (at most three) candidates nearest to `word` by edit distance, nearest first; none that is farther than half its
/// length.
std::vector<std::string> nearest_words(std::string_view word, const std::vector<std::string>& candidates);

/// "a, b, c"
std::string joined(const std::vector<std::string>& words, std::string_view between = ", ");

/// 64-bit FNV-1a (Fowler, Noll, Vo): digests of scenes and setups; not for security.
struct Digest {
    std::uint64_t value = 14695981039346656037ull;
    void add(const void* data, std::size_t bytes);
    std::string hex() const;
};

} // namespace mirolux

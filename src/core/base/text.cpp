#include "core/base/text.h"
#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <ctime>
#include <fmt/format.h>

namespace mirolux {

std::string utc_now() {
    const auto now = std::chrono::system_clock::to_time_t(std::chrono::system_clock::now());
    char text[32];
    std::tm utc{};
    gmtime_r(&now, &utc);
    std::strftime(text, sizeof text, "%Y-%m-%dT%H:%M:%SZ", &utc);
    return text;
}

std::string number_text(double value, int digits) {
    std::string text = fmt::format("{:.{}g}", value, digits);
    // %g turns to exponents early; numbers a person reads stay plain.
    if (text.find('e') != std::string::npos && std::abs(value) < 1e7 && std::abs(value) >= 1e-4)
        return fmt::format("{:.0f}", value);
    return text;
}

std::vector<std::string> nearest_words(std::string_view word, const std::vector<std::string>& candidates) {
    auto distance = [](std::string_view a, std::string_view b) {
        std::vector<std::size_t> row(b.size() + 1);
        for (std::size_t j = 0; j <= b.size(); ++j)
            row[j] = j;
        for (std::size_t i = 1; i <= a.size(); ++i) {
            std::size_t diagonal = row[0];
            row[0] = i;
            for (std::size_t j = 1; j <= b.size(); ++j) {
                const std::size_t above = row[j];
                row[j] = std::min(
                    {row[j] + 1, row[j - 1] + 1, diagonal + (std::tolower(a[i - 1]) != std::tolower(b[j - 1]))});
                diagonal = above;
            }
        }
        return row[b.size()];
    };
    std::vector<std::pair<std::size_t, std::string>> ranked;
    for (const auto& candidate : candidates) {
        const std::size_t d = distance(word, candidate);
        if (d <= std::max<std::size_t>(2, candidate.size() / 2)) ranked.emplace_back(d, candidate);
    }
    std::stable_sort(ranked.begin(), ranked.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    std::vector<std::string> result;
    for (std::size_t i = 0; i < ranked.size() && i < 3; ++i)
        result.push_back(ranked[i].second);
    return result;
}

std::string joined(const std::vector<std::string>& words, std::string_view between) {
    std::string text;
    for (const auto& word : words) {
        if (!text.empty()) text += between;
        text += word;
    }
    return text;
}

void Digest::add(const void* data, std::size_t bytes) {
    const auto* p = static_cast<const unsigned char*>(data);
    for (std::size_t i = 0; i < bytes; ++i)
        value = (value ^ p[i]) * 1099511628211ull;
}

std::string Digest::hex() const {
    return fmt::format("{:016x}", value);
}

} // namespace mirolux

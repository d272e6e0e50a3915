#pragma once
#include "core/base/error.h"
#include <cmath>
#include <fmt/format.h>
#include <glm/glm.hpp>
#include <nlohmann/json.hpp>
#include <string>

namespace mirolux {

/// JSON as text; bytes that are not UTF-8 (a file's odd name, say) become the replacement character instead of an end.
inline std::string json_text(const nlohmann::json& json, int indent = -1) {
    return json.dump(indent, ' ', false, nlohmann::json::error_handler_t::replace);
}

using Json = nlohmann::json;

/// Thrown inside a reader only, and turned into an Error at its border: it never leaves the reader's function.
struct ReadFailure {
    std::string what, pointer, remedy;
};

/// A place in a JSON document that knows its own JSON pointer (RFC 6901), so that every complaint names it.
/// All getters throw ReadFailure on a value of the wrong kind or out of range.
class JsonCursor {
public:
    explicit JsonCursor(const Json& value, std::string pointer = {}) : value_(&value), pointer_(std::move(pointer)) {}

    const Json& json() const { return *value_; }
    const std::string& pointer() const { return pointer_; }
    [[noreturn]] void complain(std::string what, std::string remedy = {}) const {
        throw ReadFailure{std::move(what), pointer_.empty() ? "/" : pointer_, std::move(remedy)};
    }

    bool has(const char* key) const { return value_->is_object() && value_->contains(key); }
    JsonCursor operator[](const char* key) const {
        if (!value_->is_object()) complain("must be an object");
        const auto it = value_->find(key);
        if (it == value_->end()) complain(std::string("lacks \"") + key + "\"");
        return JsonCursor(*it, pointer_ + "/" + key);
    }
    std::size_t size() const { return value_->is_array() ? value_->size() : 0; }
    JsonCursor at(std::size_t index) const {
        if (!value_->is_array() || index >= value_->size())
            complain("index " + std::to_string(index) + " is out of range");
        return JsonCursor((*value_)[index], pointer_ + "/" + std::to_string(index));
    }
    /// The array under key, or an empty one if absent.
    JsonCursor list(const char* key) const {
        static const Json empty = Json::array();
        if (!has(key)) return JsonCursor(empty, pointer_ + "/" + key);
        const JsonCursor found = (*this)[key];
        if (!found.json().is_array()) found.complain("must be an array");
        return found;
    }

    double number() const {
        if (!value_->is_number()) complain("must be a number");
        const double v = value_->get<double>();
        if (!std::isfinite(v)) complain("must be a finite number");
        return v;
    }
    double number(const char* key, double fallback, double low = -3.4e38, double high = 3.4e38) const {
        if (!has(key)) return fallback;
        const JsonCursor c = (*this)[key];
        const double v = c.number();
        if (v < low || v > high) c.complain("must lie between " + shortened(low) + " and " + shortened(high));
        return v;
    }
    std::uint64_t whole(std::uint64_t limit) const {
        if (!value_->is_number_unsigned()) complain("must be a whole number, 0 or more");
        const auto v = value_->get<std::uint64_t>();
        if (v > limit) complain(std::to_string(v) + " is over the limit of " + std::to_string(limit));
        return v;
    }
    std::uint64_t whole(const char* key, std::uint64_t fallback, std::uint64_t limit = 0xFFFFFFFFull) const {
        return has(key) ? (*this)[key].whole(limit) : fallback;
    }
    /// An index into a list of `count` things, or -1 if the key is absent.
    int index(const char* key, std::size_t count) const {
        if (!has(key)) return -1;
        const JsonCursor c = (*this)[key];
        const auto v = c.whole(0x7FFFFFFF);
        if (v >= count)
            c.complain("index " + std::to_string(v) + " is out of range: there are " + std::to_string(count));
        return static_cast<int>(v);
    }
    std::string text() const {
        if (!value_->is_string()) complain("must be text");
        return value_->get<std::string>();
    }
    std::string text(const char* key, const std::string& fallback) const {
        return has(key) ? (*this)[key].text() : fallback;
    }
    bool flag(const char* key, bool fallback) const {
        if (!has(key)) return fallback;
        const JsonCursor c = (*this)[key];
        if (!c.value_->is_boolean()) c.complain("must be true or false");
        return c.value_->get<bool>();
    }
    template <int N>
    glm::vec<N, float> vector(const char* key, glm::vec<N, float> fallback) const {
        return has(key) ? (*this)[key].template vector<N>() : fallback;
    }
    template <int N>
    glm::vec<N, float> vector() const {
        if (!value_->is_array() || value_->size() != N)
            complain("must be an array of " + std::to_string(N) + " numbers");
        glm::vec<N, float> v;
        for (int i = 0; i < N; ++i) {
            const double x = at(i).number();
            if (std::abs(x) > 3.4e38) at(i).complain("is too large");
            v[i] = static_cast<float>(x);
        }
        return v;
    }

private:
    static std::string shortened(double v) { return fmt::format("{:g}", v); }
    const Json* value_;
    std::string pointer_;
};

template <int N>
Json to_array(const glm::vec<N, float>& v) {
    Json array = Json::array();
    for (int i = 0; i < N; ++i)
        array.push_back(v[i]);
    return array;
}

} // namespace mirolux

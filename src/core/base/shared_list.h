#pragma once
#include <initializer_list>
#include <memory>
#include <utility>
#include <vector>

namespace mirolux {

/// A vector whose copies share their elements until one of them is changed: then that one gets its own. As safe between
/// threads as a vector is; a reference or an iterator for changing holds until the next copy is made.
template <class T>
class SharedList {
public:
    using value_type = T;
    using iterator = typename std::vector<T>::iterator;
    using const_iterator = typename std::vector<T>::const_iterator;

    SharedList() = default;
    SharedList(std::vector<T> elements) : held_(std::make_shared<std::vector<T>>(std::move(elements))) {}
    SharedList(std::initializer_list<T> elements) : SharedList(std::vector<T>(elements)) {}

    /// The elements themselves, to be read or changed.
    const std::vector<T>& list() const {
        static const std::vector<T> none;
        return held_ ? *held_ : none;
    }
    std::vector<T>& list() {
        if (!held_)
            held_ = std::make_shared<std::vector<T>>();
        else if (held_.use_count() > 1)
            held_ = std::make_shared<std::vector<T>>(*held_);
        return *held_;
    }
    operator const std::vector<T>&() const { return list(); }
    /// True if both are one and the same: a copy of which neither was changed.
    bool same(const SharedList& other) const { return held_ == other.held_; }

    std::size_t size() const { return list().size(); }
    bool empty() const { return list().empty(); }
    const T* data() const { return list().data(); }
    const T& operator[](std::size_t i) const { return list()[i]; }
    const T& front() const { return list().front(); }
    const T& back() const { return list().back(); }
    const_iterator begin() const { return list().begin(); }
    const_iterator end() const { return list().end(); }

    T* data() { return list().data(); }
    T& operator[](std::size_t i) { return list()[i]; }
    T& front() { return list().front(); }
    T& back() { return list().back(); }
    iterator begin() { return list().begin(); }
    iterator end() { return list().end(); }
    void push_back(T element) { list().push_back(std::move(element)); }
    void resize(std::size_t count) { list().resize(count); }
    void reserve(std::size_t count) { list().reserve(count); }
    void clear() { held_.reset(); }
    template <class... Arguments>
    iterator insert(const_iterator at, Arguments&&... arguments) {
        const auto place = at - std::as_const(*this).begin();
        std::vector<T>& own = list();
        return own.insert(own.begin() + place, std::forward<Arguments>(arguments)...);
    }
    iterator insert(const_iterator at, std::initializer_list<T> elements) {
        return insert(at, elements.begin(), elements.end());
    }

    bool operator==(const SharedList& other) const { return held_ == other.held_ || list() == other.list(); }

private:
    std::shared_ptr<std::vector<T>> held_; // null: none
};

} // namespace mirolux

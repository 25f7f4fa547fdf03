#include "core/elements/element_set.h"

#include <bit>
#include <cassert>

#include "core/base/bytes.h"
#include "core/base/compress.h"
#include "core/base/error.h"

namespace pristine {
namespace {

// A cloud has at most 2^32 elements: 65,536 pages, each with its kind and at most its bitmap.
constexpr std::uint64_t kLargestStored = 8 + 65536 * (1 + std::uint64_t{kPageSize} / 8);

}  // namespace

std::size_t PageBits::count() const {
    std::size_t n = 0;
    for (const std::uint64_t w : words) n += static_cast<std::size_t>(std::popcount(w));
    return n;
}

ElementSet ElementSet::all(std::uint64_t size) {
    ElementSet s(size);
    for (std::size_t p = 0; p < s.pages_.size(); ++p) s.set_page_all(p);
    return s;
}

std::size_t ElementSet::page_members(std::size_t page) const {
    const Page& p = pages_[page];
    return p.kind == Kind::None ? 0 : p.kind == Kind::All ? page_length(size_, page) : p.members;
}

std::uint64_t ElementSet::count() const {
    std::uint64_t n = 0;
    for (std::size_t p = 0; p < pages_.size(); ++p) n += page_members(p);
    return n;
}

bool ElementSet::contains(std::uint64_t element) const {
    assert(element < size_);
    const Page& p = pages_[element / kPageSize];
    return p.kind == Kind::All || (p.kind == Kind::Some && p.bits->test(element % kPageSize));
}

ElementSet::Page ElementSet::normal(std::shared_ptr<PageBits> bits, std::size_t length) {
    for (std::size_t w = length / 64; w < bits->words.size(); ++w) {
        if (w == length / 64 && length % 64 != 0)
            bits->words[w] &= (std::uint64_t{1} << (length % 64)) - 1;
        else if (w * 64 >= length)
            bits->words[w] = 0;
    }
    const std::size_t members = bits->count();
    if (members == 0) return {};
    if (members == length) return {Kind::All, 0, nullptr};
    return {Kind::Some, static_cast<std::uint32_t>(members), std::move(bits)};
}

void ElementSet::set_page(std::size_t page, const PageBits& bits) {
    pages_[page] = normal(std::make_shared<PageBits>(bits), page_length(size_, page));
}

void ElementSet::set_page_all(std::size_t page) {
    pages_[page] = {Kind::All, 0, nullptr};
}

void ElementSet::insert(std::uint64_t element) {
    assert(element < size_);
    const std::size_t page = element / kPageSize;
    if (contains(element)) return;
    auto bits =
        pages_[page].bits ? std::make_shared<PageBits>(*pages_[page].bits) : std::make_shared<PageBits>();
    bits->set(element % kPageSize);
    pages_[page] = normal(std::move(bits), page_length(size_, page));
}

void ElementSet::for_each(const std::function<void(std::uint64_t)>& visit) const {
    for (std::size_t p = 0; p < pages_.size(); ++p)
        for_each_in_page(p, [&](std::size_t i) { visit(std::uint64_t{p} * kPageSize + i); });
}

// Both pages are of kind Some. Keeps the pointer of an operand that equals the result.
template <class WordOp>
ElementSet::Page ElementSet::combine(const Page& a, const Page& b, std::size_t length, WordOp op) {
    auto bits = std::make_shared<PageBits>();
    bool like_a = true, like_b = true;
    for (std::size_t w = 0; w < bits->words.size(); ++w) {
        const std::uint64_t x = op(a.bits->words[w], b.bits->words[w]);
        like_a &= x == a.bits->words[w];
        like_b &= x == b.bits->words[w];
        bits->words[w] = x;
    }
    if (like_a) return a;
    if (like_b) return b;
    return normal(std::move(bits), length);
}

ElementSet operator|(const ElementSet& a, const ElementSet& b) {
    assert(a.size_ == b.size_);
    using Kind = ElementSet::Kind;
    ElementSet r(a.size_);
    for (std::size_t p = 0; p < r.pages_.size(); ++p) {
        const auto &x = a.pages_[p], &y = b.pages_[p];
        if (x.kind == Kind::None || y.kind == Kind::All)
            r.pages_[p] = y;
        else if (y.kind == Kind::None || x.kind == Kind::All)
            r.pages_[p] = x;
        else
            r.pages_[p] = ElementSet::combine(x, y, page_length(r.size_, p),
                                              [](std::uint64_t u, std::uint64_t v) { return u | v; });
    }
    return r;
}

ElementSet operator&(const ElementSet& a, const ElementSet& b) {
    assert(a.size_ == b.size_);
    using Kind = ElementSet::Kind;
    ElementSet r(a.size_);
    for (std::size_t p = 0; p < r.pages_.size(); ++p) {
        const auto &x = a.pages_[p], &y = b.pages_[p];
        if (x.kind == Kind::None || y.kind == Kind::All)
            r.pages_[p] = x;
        else if (y.kind == Kind::None || x.kind == Kind::All)
            r.pages_[p] = y;
        else
            r.pages_[p] = ElementSet::combine(x, y, page_length(r.size_, p),
                                              [](std::uint64_t u, std::uint64_t v) { return u & v; });
    }
    return r;
}

ElementSet operator-(const ElementSet& a, const ElementSet& b) {
    assert(a.size_ == b.size_);
    using Kind = ElementSet::Kind;
    ElementSet r(a.size_);
    for (std::size_t p = 0; p < r.pages_.size(); ++p) {
        const auto &x = a.pages_[p], &y = b.pages_[p];
        if (x.kind == Kind::None || y.kind == Kind::None) {
            r.pages_[p] = x;
        } else if (y.kind == Kind::All) {
            continue;
        } else if (x.kind == Kind::All) {
            auto bits = std::make_shared<PageBits>();
            for (std::size_t w = 0; w < bits->words.size(); ++w) bits->words[w] = ~y.bits->words[w];
            r.pages_[p] = ElementSet::normal(std::move(bits), page_length(r.size_, p));
        } else {
            r.pages_[p] = ElementSet::combine(x, y, page_length(r.size_, p),
                                              [](std::uint64_t u, std::uint64_t v) { return u & ~v; });
        }
    }
    return r;
}

ElementSet ElementSet::operator~() const {
    return all(size_) - *this;
}

bool operator==(const ElementSet& a, const ElementSet& b) {
    if (a.size_ != b.size_) return false;
    for (std::size_t p = 0; p < a.pages_.size(); ++p) {
        const auto &x = a.pages_[p], &y = b.pages_[p];
        if (x.kind != y.kind || x.members != y.members) return false;
        if (x.kind == ElementSet::Kind::Some && x.bits != y.bits && x.bits->words != y.bits->words)
            return false;
    }
    return true;
}

bool ElementSet::same_pages(const ElementSet& o) const {
    if (size_ != o.size_) return false;
    for (std::size_t p = 0; p < pages_.size(); ++p)
        if (pages_[p].kind != o.pages_[p].kind || pages_[p].bits != o.pages_[p].bits) return false;
    return true;
}

std::string ElementSet::packed() const {
    std::string raw;
    append_le(raw, size_);
    for (const Page& p : pages_) raw.push_back(static_cast<char>(p.kind));
    for (const Page& p : pages_)
        if (p.kind == Kind::Some)
            raw.append(reinterpret_cast<const char*>(p.bits->words.data()), sizeof(p.bits->words));
    return pack(raw);
}

ElementSet ElementSet::unpacked(std::string_view packed_bytes) {
    const auto damaged = [](const char* where) {
        return Error(ErrorCode::Format, "A stored selection is damaged", where);
    };
    const std::string raw = unpack(packed_bytes, kLargestStored);
    if (raw.size() < 8) throw damaged("its head is missing");
    const auto size = load_le<std::uint64_t>(raw.data());
    if ((raw.size() - 8) < size / kPageSize) throw damaged("fewer pages than announced");
    ElementSet s(size);
    if (raw.size() - 8 < s.pages_.size()) throw damaged("fewer pages than announced");
    std::size_t at = 8 + s.pages_.size();
    for (std::size_t p = 0; p < s.pages_.size(); ++p) {
        const char kind = raw[8 + p];
        if (kind == static_cast<char>(Kind::All)) {
            s.set_page_all(p);
        } else if (kind == static_cast<char>(Kind::Some)) {
            auto bits = std::make_shared<PageBits>();
            if (raw.size() - at < sizeof(bits->words)) throw damaged("a page is cut off");
            std::memcpy(bits->words.data(), raw.data() + at, sizeof(bits->words));
            at += sizeof(bits->words);
            s.pages_[p] = normal(std::move(bits), page_length(size, p));
        } else if (kind != static_cast<char>(Kind::None)) {
            throw damaged("unknown kind of page");
        }
    }
    return s;
}

}  // namespace pristine

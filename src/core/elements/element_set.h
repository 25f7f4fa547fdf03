// A set of elements of one item (points or triangles), cut at the same places as the data that it speaks of.
//
// Each page is none, all, or a shared constant bitmap with its count, so that set algebra works page by page,
// equal pages stay shared, and undo costs only what changed.
//
// Laws (tested against std::vector<bool>):
//  1. Algebra: |, &, -, ~ are those of sets over [0, size).
//  2. Normal form: a page without members is none, a full page is all; so equal sets compare page by page.
//  3. Sharing: a page on which an operation changes nothing keeps the pointer of its operand.

#pragma once

#include <array>
#include <cstdint>
#include <functional>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "core/elements/page.h"

namespace pristine {

/// One page of membership bits; bit i of word i/64 is element i. 8 KiB.
struct PageBits {
    std::array<std::uint64_t, kPageSize / 64> words{};

    bool test(std::size_t i) const { return (words[i / 64] >> (i % 64)) & 1u; }
    void set(std::size_t i) { words[i / 64] |= std::uint64_t{1} << (i % 64); }
    std::size_t count() const;
};

/// A set of elements of one cloud, page by page: none, all, or bits. Sets of different sizes do not mix.
class ElementSet {
  public:
    enum class Kind : std::uint8_t { None, All, Some };

    /// The empty set over `size` elements.
    explicit ElementSet(std::uint64_t size = 0) : size_(size), pages_(pages_for(size)) {}
    static ElementSet all(std::uint64_t size);

    std::uint64_t size() const { return size_; }
    std::size_t page_count() const { return pages_.size(); }
    /// Number of members. O(pages).
    std::uint64_t count() const;
    bool empty() const { return count() == 0; }
    bool contains(std::uint64_t element) const;

    Kind kind(std::size_t page) const { return pages_[page].kind; }
    /// Members in this page.
    std::size_t page_members(std::size_t page) const;
    /// The bits of a page of kind Some; null for None and All.
    const PageBits* bits(std::size_t page) const { return pages_[page].bits.get(); }
    const std::shared_ptr<const PageBits>& bits_ptr(std::size_t page) const { return pages_[page].bits; }

    /// Replaces one page; bits beyond the end of the last page are ignored. Brings it to normal form.
    void set_page(std::size_t page, const PageBits& bits);
    void set_page_all(std::size_t page);
    void set_page_none(std::size_t page) { pages_[page] = {}; }
    /// Adds one element. Copies its page when that is shared: for few elements, tests and picks.
    void insert(std::uint64_t element);

    /// Calls visit(element) for each member, ascending.
    void for_each(const std::function<void(std::uint64_t)>& visit) const;
    /// Calls visit(index in page) for each member of the page, ascending.
    template <class Visit>
    void for_each_in_page(std::size_t page, Visit&& visit) const;

    friend ElementSet operator|(const ElementSet&, const ElementSet&);
    friend ElementSet operator&(const ElementSet&, const ElementSet&);
    friend ElementSet operator-(const ElementSet&, const ElementSet&);
    ElementSet operator~() const;
    friend bool operator==(const ElementSet&, const ElementSet&);
    /// Whether the two hold the very same page objects (a sign that nothing changed; false may still be
    /// equal).
    bool same_pages(const ElementSet&) const;

    /// Packed for storage. unpack throws Error(Format) on damage.
    std::string packed() const;
    static ElementSet unpacked(std::string_view);

  private:
    struct Page {
        Kind kind = Kind::None;
        std::uint32_t members = 0;  // of kind Some
        std::shared_ptr<const PageBits> bits;
    };
    template <class WordOp>
    static Page combine(const Page& a, const Page& b, std::size_t length, WordOp op);
    static Page normal(std::shared_ptr<PageBits> bits, std::size_t length);

    std::uint64_t size_ = 0;
    std::vector<Page> pages_;
};

template <class Visit>
void ElementSet::for_each_in_page(std::size_t page, Visit&& visit) const {
    if (kind(page) == Kind::None) return;
    const std::size_t length = page_length(size_, page);
    if (kind(page) == Kind::All) {
        for (std::size_t i = 0; i < length; ++i) visit(i);
        return;
    }
    const PageBits& b = *pages_[page].bits;
    for (std::size_t w = 0; w < b.words.size(); ++w)
        for (std::uint64_t word = b.words[w]; word != 0; word &= word - 1)
            visit(w * 64 + static_cast<std::size_t>(__builtin_ctzll(word)));
}

}  // namespace pristine

#include "core/io/laz/arithmetic.h"

#include <algorithm>

namespace pristine::io::laz {

void SymbolModel::start(unsigned symbols) {
    if (symbols_ != symbols) {
        unsigned bits = 3;
        while (bits < 9 && symbols > 1u << bits) ++bits;
        table_size_ = 1u << bits;
        table_shift_ = kSymbolShift - bits;
        memory_ = std::make_unique_for_overwrite<std::uint16_t[]>(2 * symbols + table_size_ + 2);
        distribution_ = memory_.get();
        counts_ = distribution_ + symbols;
        table_ = counts_ + symbols;
        symbols_ = symbols;
    }
    total_ = 0;
    cycle_ = symbols;
    std::fill_n(counts_, symbols, std::uint16_t{1});
    update();
    until_update_ = cycle_ = (symbols + 6) >> 1;
}

void SymbolModel::update() {
    if ((total_ += cycle_) > (1u << kSymbolShift)) {
        total_ = 0;
        for (unsigned n = 0; n < symbols_; ++n) {
            counts_[n] = static_cast<std::uint16_t>((counts_[n] + 1) >> 1);
            total_ += counts_[n];
        }
    }
    const std::uint32_t scale = 0x80000000u / total_;
    std::uint32_t sum = 0;
    for (unsigned k = 0; k < symbols_; ++k) {
        distribution_[k] = static_cast<std::uint16_t>((scale * sum) >> (31 - kSymbolShift));
        sum += counts_[k];
    }
    // table_[t]: the greatest symbol that begins at or before t's share.
    std::fill_n(table_, table_size_ + 2, std::uint16_t{0});
    const unsigned round_up = (1u << table_shift_) - 1;
    for (unsigned k = 1; k < symbols_; ++k)
        table_[(distribution_[k] + round_up) >> table_shift_] = static_cast<std::uint16_t>(k);
    std::uint16_t greatest = 0;
    for (unsigned t = 0; t < table_size_ + 2; ++t) table_[t] = greatest = std::max(greatest, table_[t]);
    cycle_ = std::min(5 * cycle_ >> 2, (symbols_ + 6) << 3);
    until_update_ = cycle_;
}

std::string Encoder::finish() {
    const bool long_tail = length_ > 2 * kLeastLength;
    if (long_tail) {
        add(kLeastLength);
        length_ = kLeastLength >> 1;
    } else {
        add(kLeastLength >> 1);
        length_ = kLeastLength >> 9;
    }
    renormalise();
    out_.append(long_tail ? 3 : 2, '\0');
    std::string done = std::move(out_);
    out_.clear();
    base_ = 0;
    length_ = kWholeLength;
    return done;
}

}  // namespace pristine::io::laz

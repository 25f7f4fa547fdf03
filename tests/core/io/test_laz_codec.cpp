// The parts of the LAZ codec on their own: coder, models, integers, times, colours, chunks.

#include <catch2/catch.hpp>

#include <algorithm>

#include "core/base/bytes.h"
#include "core/io/las/las_header.h"
#include "core/io/laz/chunk.h"
#include "support/cloud_makers.h"

using namespace pristine;
using namespace pristine::io::laz;

namespace {

std::span<const std::byte> bytes_of(const std::string& s) {
    return std::as_bytes(std::span(s));
}

}  // namespace

TEST_CASE("WhatTheArithmeticCoderWritesItReads") {
    const auto seed = test::seed_for("coder");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (int round = 0; round < 40; ++round) {
        const unsigned symbols = 2 + static_cast<unsigned>(dice() % (round % 2 ? 2046 : 20));
        CAPTURE(round, symbols);
        // Skewed, uniform, or always the same: what models are good and bad at.
        const unsigned skew = static_cast<unsigned>(dice() % 3);
        std::vector<std::array<std::uint32_t, 4>> said;
        Encoder encoder;
        SymbolModel model(symbols);
        BitModel bit;
        for (int i = 0; i < 5000; ++i) {
            const auto uniform = static_cast<unsigned>(dice() % symbols);
            const unsigned s = skew == 0   ? uniform
                               : skew == 1 ? std::min(uniform, static_cast<unsigned>(dice() % symbols)) / 3
                                           : symbols - 1;
            const auto count = 1 + static_cast<std::uint32_t>(dice() % 32);
            const auto raw = static_cast<std::uint32_t>(dice()) & (count == 32 ? ~0u : (1u << count) - 1);
            said.push_back({s, static_cast<std::uint32_t>(dice() % 10 == 0), count, raw});
            encoder.symbol(model, s);
            encoder.bit(bit, said.back()[1] != 0);
            if (i % 7 == 0) encoder.bits(count, raw);
        }
        const std::string stream = encoder.finish();
        Decoder decoder(bytes_of(stream));
        SymbolModel again(symbols);
        BitModel bit_again;
        for (std::size_t i = 0; i < said.size(); ++i) {
            REQUIRE(decoder.symbol(again) == said[i][0]);
            REQUIRE(decoder.bit(bit_again) == (said[i][1] != 0));
            if (i % 7 == 0) REQUIRE(decoder.bits(said[i][2]) == said[i][3]);
        }
        CHECK(decoder.consumed() <= stream.size());
        if (skew == 2) CHECK(stream.size() < 20'000);
    }
}

TEST_CASE("AStreamThatEndsTooEarlyIsAnErrorNotAHang") {
    Encoder encoder;
    SymbolModel model(256);
    std::mt19937_64 dice(3);
    for (int i = 0; i < 4000; ++i) encoder.symbol(model, static_cast<unsigned>(dice() % 256));
    const std::string stream = encoder.finish();
    Decoder decoder(bytes_of(stream).first(stream.size() / 2));
    SymbolModel again(256);
    CHECK_THROWS_AS(
        [&] {
            for (int i = 0; i < 4000; ++i) decoder.symbol(again);
        }(),
        Error);
}

TEST_CASE("IntegersOfEverySizeSurviveWithAnyPrediction") {
    const auto seed = test::seed_for("integers");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (const unsigned bits : {8u, 16u, 32u}) {
        IntegerCoder there(bits, 3), back(bits, 3);
        Encoder encoder;
        std::vector<std::array<std::int32_t, 3>> said;
        for (int i = 0; i < 6000; ++i) {
            std::int32_t real = static_cast<std::int32_t>(dice() >> (32 + dice() % 31)),
                         prediction = static_cast<std::int32_t>(dice() >> (32 + dice() % 31));
            if (i % 97 == 0) real = INT32_MIN;
            if (i % 89 == 0) prediction = INT32_MAX;
            if (i % 2) real = -real - 1;
            if (bits < 32) {
                real &= (1 << bits) - 1;
                prediction &= (1 << bits) - 1;
            }
            said.push_back({prediction, real, i % 3});
            there.code(encoder, prediction, real, static_cast<unsigned>(i % 3));
        }
        const std::string stream = encoder.finish();
        Decoder decoder(bytes_of(stream));
        for (const auto& [prediction, real, context] : said) {
            REQUIRE(back.code(decoder, prediction, 0, static_cast<unsigned>(context)) == real);
        }
    }
}

TEST_CASE("TheRunningMedianStaysWithinItsLastValues") {
    std::mt19937_64 dice(9);
    Median5 m;
    std::vector<std::int32_t> seen(5, 0);
    for (int i = 0; i < 2000; ++i) {
        const auto v = static_cast<std::int32_t>(dice() % 1000) - 500;
        m.add(v);
        seen.push_back(v);
        CHECK(std::find(seen.begin(), seen.end(), m.get()) != seen.end());
    }
    // Five equal values are their own median, whatever was before.
    for (int i = 0; i < 10; ++i) m.add(77);
    CHECK(m.get() == 77);
}

TEST_CASE("TimesOfSeveralSequencesWithJumpsSurvive") {
    const auto seed = test::seed_for("times");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (const bool unchanged : {true, false}) {
        GpsTimeCoder there(unchanged), back(unchanged);
        std::vector<std::int64_t> times;
        double t[3] = {320000.25, 5.5e8, -1.25};
        for (int i = 0; i < 5000; ++i) {
            double& now = t[dice() % 40 == 0 ? dice() % 3 : 0];
            switch (dice() % 6) {
                case 0:
                    break;  // the same time again
                case 1:
                    now += static_cast<double>(dice() % 1000);
                    break;
                default:
                    now += 1e-5 * static_cast<double>(dice() % 5);
            }
            if (!unchanged && !times.empty() && std::bit_cast<std::int64_t>(now) == times.back())
                continue;  // told elsewhere
            times.push_back(std::bit_cast<std::int64_t>(now));
        }
        there.restart(times[0]);
        back.restart(times[0]);
        Encoder encoder;
        for (std::size_t i = 1; i < times.size(); ++i) there.code(encoder, times[i]);
        const std::string stream = encoder.finish();
        Decoder decoder(bytes_of(stream));
        for (std::size_t i = 1; i < times.size(); ++i)
            REQUIRE(back.code(decoder, std::int64_t{0}) == times[i]);
    }
}

TEST_CASE("ColoursSurviveGreyOrNot") {
    std::mt19937_64 dice(4);
    RgbModels there, back;
    there.restart();
    back.restart();
    std::vector<Rgb> colours;
    for (int i = 0; i < 4000; ++i) {
        Rgb c{static_cast<std::uint16_t>(dice()), static_cast<std::uint16_t>(dice()),
              static_cast<std::uint16_t>(dice())};
        if (i % 3 == 0) c = {c[0], c[0], c[0]};
        if (i % 5 == 0 && i > 0) c = colours.back();
        if (i % 7 == 0) c[1] = static_cast<std::uint16_t>(c[1] & 0xFF00u);
        colours.push_back(c);
    }
    Encoder encoder;
    for (std::size_t i = 1; i < colours.size(); ++i) there.code(encoder, colours[i - 1], colours[i]);
    const std::string stream = encoder.finish();
    Decoder decoder(bytes_of(stream));
    for (std::size_t i = 1; i < colours.size(); ++i)
        REQUIRE(back.code(decoder, colours[i - 1], Rgb{}) == colours[i]);
}

TEST_CASE("ADecoderIsAsGoodAfterADamagedChunkAsBefore") {
    const Scheme scheme = scheme_for(7, 36);
    const std::string file = [] {
        test::LasSpec spec;
        spec.points = 500;
        spec.scan_like = true;
        return test::las_file(spec);
    }();
    const auto records = bytes_of(file).last(500 * 36);
    const std::string good = ChunkEncoder(scheme).encode(records);
    ChunkDecoder decoder(scheme);
    std::vector<std::byte> out(500 * 36);
    std::mt19937_64 dice(1);
    for (int round = 0; round < 60; ++round) {
        std::string bad = good;
        for (int k = 0; k < 3; ++k) bad[dice() % bad.size()] = static_cast<char>(dice());
        try {
            decoder.decode(bytes_of(bad), out);
        } catch (const Error&) {
        }
        CHECK(decoder.decode(bytes_of(good), out) == good.size());
        REQUIRE(std::equal(out.begin(), out.end(), records.begin()));
    }
    CHECK_THROWS_AS(decoder.decode(bytes_of(good).first(20), out), Error);
}

TEST_CASE("TheSchemeSaysWhatARecordConsistsOf") {
    for (int pf = 0; pf <= 10; ++pf)
        for (const std::size_t extra : {0u, 4u}) {
            const std::size_t bytes = io::las_base_bytes(pf) + extra;
            const Scheme s = scheme_for(pf, bytes);
            CHECK(s.record_bytes() == bytes);
            const std::string vlr = scheme_bytes(s);
            CHECK(parse_scheme(vlr, pf, bytes).record_bytes() == bytes);
            CHECK_THROWS_AS(parse_scheme(vlr.substr(0, vlr.size() - 1), pf, bytes), Error);
            CHECK_THROWS_AS(parse_scheme(vlr, pf, bytes + 1), Error);
            CHECK_THROWS_AS(parse_scheme(vlr, pf == 0 ? 6 : 0, pf == 0 ? 30u : 20u), Error);
        }
}

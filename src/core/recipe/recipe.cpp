#include "core/recipe/recipe.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <nlohmann/json.hpp>

#include "core/base/error.h"
#include "core/base/parallel.h"
#include "core/select/fence.h"

namespace pristine::score {
namespace {

using nlohmann::json;
constexpr int kVersion = 1;

std::string trimmed(const std::string& s) {
    const auto a = s.find_first_not_of(" \t"), b = s.find_last_not_of(" \t");
    return a == std::string::npos ? std::string() : s.substr(a, b - a + 1);
}

Parameters parse_parameters(const std::string& text, const std::string& whole) {
    Parameters p;
    for (std::size_t at = 0; at < text.size();) {
        const std::size_t end = std::min(text.find(',', at), text.size());
        const std::string one = trimmed(text.substr(at, end - at));
        at = end + 1;
        const std::size_t equals = one.find('=');
        double value = 0;
        const std::string number =
            equals == std::string::npos ? std::string() : trimmed(one.substr(equals + 1));
        const auto [last, problem] = std::from_chars(number.data(), number.data() + number.size(), value);
        if (number.empty() || problem != std::errc{} || last != number.data() + number.size())
            throw Error(ErrorCode::Usage, "'" + one + "' in '" + whole + "' is no name=number");
        p[trimmed(one.substr(0, equals))] = value;
    }
    return p;
}

json step_json(const Step& s) {
    json j{{"reason", s.reason}};
    if (s.bound()) j["bound_to_coordinates"] = true;
    if (s.fence()) {
        j["fence"] = json::array();
        for (const Polygon& ring : s.rings) {
            json corners = json::array();
            for (const PixelPoint& c : ring) corners.push_back({c.x, c.y});
            j["fence"].push_back(corners);
        }
    } else {
        j["score"] = s.score;
        j["parameters"] = s.parameters;
        if (s.words.empty())
            j["range"] = text_of(s.limits);
        else
            j[s.limits.outside ? "other_words_than" : "words"] = s.words;
        if (!s.with.empty()) j["with"] = s.with;
        for (const Vec3& p : s.line) j["line"].push_back({p.x, p.y, p.z});
    }
    if (s.keep) j["keep"] = true;
    if (s.to_class) j["class"] = *s.to_class;
    return j;
}

Step step_from(const json& j) {
    Step s;
    s.reason = j.value("reason", "Noise");
    s.keep = j.value("keep", false);
    if (j.contains("class")) {
        const int code = j.at("class").get<int>();
        if (code < 0 || code > 255) throw Error(ErrorCode::Format, "a class is a number from 0 to 255");
        s.to_class = static_cast<std::uint8_t>(code);
    }
    if (j.contains("fence")) {
        for (const json& ring : j.at("fence")) {
            s.rings.emplace_back();
            for (const json& c : ring)
                s.rings.back().push_back({c.at(0).get<double>(), c.at(1).get<double>()});
            if (s.rings.back().size() < 3) throw Error(ErrorCode::Format, "a fence needs three corners");
        }
        return s;
    }
    s.score = j.at("score").get<std::string>();
    const json parameters = j.value("parameters", json::object());
    for (const auto& [name, value] : parameters.items()) s.parameters[name] = value.get<double>();
    for (const char* words : {"words", "other_words_than"})
        if (j.contains(words)) {
            s.words = j.at(words).get<std::vector<std::string>>();
            s.limits.outside = words == std::string_view("other_words_than");
            if (s.words.empty()) throw Error(ErrorCode::Format, "a list of words is empty");
        }
    if (s.words.empty()) s.limits = parse_limits(j.at("range").get<std::string>());
    s.with = j.value("with", "");
    for (const json& p : j.value("line", json::array()))
        s.line.push_back({p.at(0).get<double>(), p.at(1).get<double>(), p.at(2).get<double>()});
    if (s.line.size() == 1) throw Error(ErrorCode::Format, "a line needs two places");
    complete(find(s.score), s.parameters);  // says what is wrong before anything runs
    return s;
}

// The rule with what it compares with, or goes by.
Input input_of(const Step& step, const cloud::PointCloud& cloud, const ElementSet& eligible,
               const ScanContext& company) {
    const Score& score = find(step.score);
    Input in{cloud, eligible};
    if (score.looks_beside) in.beside = company.beside;
    if (score.needs_column) {
        if (step.with.empty())
            throw Error(ErrorCode::Usage, fmt::format("'{}' needs the name of a column", score.title), {},
                        "Write for example 'column \"code\" =TOE'.");
        in.column = step.with;
    }
    if (score.needs_other) {
        const OtherScan other = company.other ? company.other(step.with) : OtherScan{};
        if (!other.cloud)
            throw Error(ErrorCode::Usage,
                        fmt::format("'{}' compares with '{}', which is not here", score.title, step.with), {},
                        "Open it under this name, or give --reference on the command line.");
        in.other = other.cloud;
        in.other_members = other.members;
    }
    if (score.needs_line) {
        in.line = !step.line.empty() ? &step.line : company.line ? company.line(step.with) : nullptr;
        if (!in.line)
            throw Error(ErrorCode::Usage,
                        fmt::format("'{}' goes by the line '{}', which is not here", score.title, step.with),
                        {}, "Draw or add it under this name, or give --line on the command line.");
    }
    return in;
}

// "TOE,BANK" or "\"TOE, east\",BANK": words with commas, quotation marks or blanks at their ends stand in
// quotation marks; a mark in such a word is written twice.
std::vector<std::string> parse_words(const std::string& text, const std::string& whole) {
    std::vector<std::string> words;
    for (std::size_t at = 0; at <= text.size();) {
        at = std::min(text.find_first_not_of(" \t", at), text.size());
        std::string word;
        if (at < text.size() && text[at] == '"') {
            for (++at; text.substr(at, 2) == "\"\"" || (at < text.size() && text[at] != '"'); ++at) {
                word += text[at];
                if (text[at] == '"') ++at;
            }
            if (at >= text.size()) throw Error(ErrorCode::Usage, "A '\"' is missing in '" + whole + "'");
            ++at;
        }
        const std::size_t end = std::min(text.find(',', at), text.size());
        word += trimmed(text.substr(at, end - at));
        if (word.empty()) throw Error(ErrorCode::Usage, "A word is missing in '" + whole + "'");
        words.push_back(std::move(word));
        at = end + 1;
    }
    return words;
}

std::string text_of_words(const Step& s) {
    std::string text = s.limits.outside ? "!=" : "=";
    for (const std::string& word : s.words) {
        const bool plain = word.find_first_of(",\"") == std::string::npos &&
                           word.find("->") == std::string::npos && trimmed(word) == word;
        if (!plain) text += '"';
        for (const char c : word) text += c == '"' ? std::string("\"\"") : std::string(1, c);
        text += plain ? "," : "\",";
    }
    text.pop_back();
    return text;
}

ElementSet taken(const Step& step, const cloud::PointCloud& cloud, const ElementSet& eligible,
                 const ScanContext& company, Progress& progress) {
    const ElementSet in = step.fence()
                              ? select::plan_fence(cloud, step.rings, eligible, progress)
                              : within(step,
                                       compute(find(step.score), input_of(step, cloud, eligible, company),
                                               step.parameters, progress),
                                       cloud, eligible);
    return step.keep ? eligible - in : in;
}

// Takes "-> class 4" off the end of a rule.
std::string take_class(const std::string& text, Step& s) {
    const std::size_t at = text.rfind("->");
    // A word of a column may hold an arrow.
    if (at == std::string::npos || text.find('"', at) != std::string::npos) return text;
    std::string code = trimmed(text.substr(at + 2));
    if (code.starts_with("class ")) code = trimmed(code.substr(6));
    int number = -1;
    const auto [last, problem] = std::from_chars(code.data(), code.data() + code.size(), number);
    if (problem != std::errc{} || last != code.data() + code.size() || number < 0 || number > 255)
        throw Error(ErrorCode::Usage, "'" + code + "' in '" + text + "' is no class", {},
                    "Write for example 'height 2..5 -> class 4'; classes are numbers from 0 to 255.");
    s.to_class = static_cast<std::uint8_t>(number);
    return trimmed(text.substr(0, at));
}

}  // namespace

Step parse_step(const std::string& text) {
    Step s;
    const std::string t = take_class(trimmed(text), s);
    const std::size_t id_end = t.find_first_of("[ \t<>\"");
    if (id_end == std::string::npos || id_end == 0)
        throw Error(ErrorCode::Usage, "'" + text + "' is no rule", {},
                    "Write for example 'stray[neighbours=16] >3'.");
    s.score = t.substr(0, id_end);
    std::size_t at = id_end;
    if (t[at] == '[') {
        const std::size_t close = t.find(']', at);
        if (close == std::string::npos) throw Error(ErrorCode::Usage, "A ']' is missing in '" + text + "'");
        s.parameters = parse_parameters(t.substr(at + 1, close - at - 1), text);
        at = close + 1;
    }
    at = std::min(t.find_first_not_of(" \t", at), t.size());
    if (at < t.size() && t[at] == '"') {
        const std::size_t close = t.find('"', at + 1);
        if (close == std::string::npos) throw Error(ErrorCode::Usage, "A '\"' is missing in '" + text + "'");
        s.with = t.substr(at + 1, close - at - 1);
        at = close + 1;
    }
    std::string range = trimmed(t.substr(at));
    if (range.starts_with("keep ")) {
        s.keep = true;
        range = trimmed(range.substr(5));
    }
    if (range.starts_with('=') || range.starts_with("!=")) {
        s.limits.outside = range.front() == '!';
        s.words = parse_words(range.substr(s.limits.outside ? 2 : 1), text);
    } else {
        s.limits = parse_limits(range);
    }
    complete(find(s.score), s.parameters);
    return s;
}

std::string text_of(const Step& s) {
    if (s.fence())
        return fmt::format("{} {} lines{}", s.keep ? "outside" : "inside", s.rings.size(),
                           s.to_class ? fmt::format(" -> class {}", *s.to_class) : "");
    std::string p;
    for (const auto& [name, value] : s.parameters)
        p += fmt::format("{}{}={}", p.empty() ? "" : ",", name, value);
    // A name cannot hold what ends it.
    std::string with = s.with.empty() ? s.with : " \"" + s.with + "\"";
    if (!with.empty()) std::replace(with.begin() + 2, with.end() - 1, '"', '\'');
    return fmt::format("{}{}{} {}{}{}", s.score, p.empty() ? p : "[" + p + "]", with, s.keep ? "keep " : "",
                       s.words.empty() ? text_of(s.limits) : text_of_words(s),
                       s.to_class ? fmt::format(" -> class {}", *s.to_class) : "");
}

ElementSet within(const Step& step, const Column& column, const cloud::PointCloud& cloud,
                  const ElementSet& eligible) {
    const cloud::Field* field =
        !step.fence() && find(step.score).needs_column ? cloud.records()->layout().find(step.with) : nullptr;
    const bool has_words = field && field->words;
    if (step.words.empty() && has_words)
        throw Error(ErrorCode::Usage, fmt::format("The column '{}' holds words, no numbers", step.with), {},
                    fmt::format("Write for example 'column \"{}\" =TOE'.", step.with));
    if (step.words.empty()) return within(column, eligible, step.limits);
    if (!has_words)
        throw Error(ErrorCode::Usage, fmt::format("The column '{}' holds no words", step.with), {},
                    "Give a range of numbers.");
    const std::vector<std::string>& all = *field->words;
    std::vector<bool> wanted(all.size(), step.limits.outside);
    for (std::size_t k = 0; k < all.size(); ++k)
        if (std::find(step.words.begin(), step.words.end(), all[k]) != step.words.end())
            wanted[k] = !step.limits.outside;
    ElementSet result(eligible.size());
    parallel::for_each(eligible.page_count(), [&](std::size_t p) {
        PageBits bits;
        const std::span<const float> v = column.values.page(p);
        eligible.for_each_in_page(p, [&](std::size_t i) {
            const double value = column.base + static_cast<double>(v[i]);
            if (value >= 0 && value < static_cast<double>(all.size()) &&
                wanted[static_cast<std::size_t>(value)])
                bits.set(i);
        });
        result.set_page(p, bits);
    });
    return result;
}

Recipe recipe_from_json(const std::string& text) {
    Recipe recipe;
    std::size_t step = 0;
    try {
        const json j = json::parse(text);
        const int version = j.at("pristine_recipe").get<int>();
        if (version != kVersion)
            throw Error(ErrorCode::Unsupported,
                        fmt::format("The recipe has version {}; version {} can be read", version, kVersion));
        for (const json& s : j.at("steps")) {
            ++step;
            recipe.push_back(step_from(s));
        }
    } catch (const json::exception& e) {
        throw Error(ErrorCode::Format,
                    fmt::format("This is no sound recipe{}: {}",
                                step ? fmt::format(" (step {})", step) : std::string(), e.what()));
    } catch (const Error& e) {
        if (step == 0) throw;
        throw Error(ErrorCode::Format, fmt::format("Step {} of the recipe: {}", step, e.what()));
    }
    return recipe;
}

std::string json_of(const Recipe& recipe) {
    json steps = json::array();
    for (const Step& s : recipe) steps.push_back(step_json(s));
    return json{{"pristine_recipe", kVersion}, {"steps", steps}}.dump(2) + "\n";
}

std::string json_of_step(const Step& s) {
    return step_json(s).dump();
}

Step step_from_json(const std::string& text) {
    try {
        return step_from(json::parse(text));
    } catch (const json::exception& e) {
        throw Error(ErrorCode::Format, std::string("This is no step of a recipe: ") + e.what());
    }
}

std::vector<Removal> run(const Recipe& recipe, const cloud::PointCloud& cloud, ElementSet eligible,
                         Progress& progress, const ScanContext& company) {
    std::vector<Removal> out;
    for (std::size_t i = 0; i < recipe.size(); ++i) {
        const double n = static_cast<double>(recipe.size());
        const Progress::Part part(progress, static_cast<double>(i) / n, static_cast<double>(i + 1) / n,
                                  text_of(recipe[i]));
        ElementSet gone = taken(recipe[i], cloud, eligible, company, progress);
        if (recipe[i].to_class) {
            out.push_back({text_of(recipe[i]), recipe[i].reason, recipe[i], std::move(gone)});
            continue;
        }
        if (!eligible.empty() && gone.count() == eligible.count())
            throw Error(ErrorCode::Empty, "The rule '" + text_of(recipe[i]) + "' would leave nothing");
        eligible = eligible - gone;
        out.push_back({text_of(recipe[i]), recipe[i].reason, recipe[i], std::move(gone)});
    }
    return out;
}

}  // namespace pristine::score

// Surveys of the site, and what is of which.

#include <algorithm>
#include <cmath>
#include <map>

#include "core/base/error.h"
#include "core/site/heights.h"
#include "core/site/site.h"

namespace pristine::site {
namespace {

Error no_survey() {
    return Error(ErrorCode::Usage, "This survey is not there any more");
}

void require_sense(const Site& site, const Survey& s) {
    if (s.name.empty()) throw Error(ErrorCode::Usage, "A survey needs a name");
    if (!s.date.empty() && date_in(s.date) != s.date)
        throw Error(ErrorCode::Usage, "'" + s.date + "' is no date", {}, "Write it as 2026-11-25.");
    for (const double sigma : {s.noise, s.systematic})
        if (!std::isfinite(sigma) || sigma < 0)
            throw Error(ErrorCode::Usage, "A standard deviation cannot be below 0");
    for (const Survey& other : site.surveys)
        if (other.id != s.id && other.name == s.name)
            throw Error(ErrorCode::Usage, "There is a survey called '" + s.name + "' already");
}

// Each of `all` whose number is among `ids`, of another survey; all of them must be there.
template <class T>
void give(std::vector<std::shared_ptr<const T>>& all, const std::vector<std::uint64_t>& ids,
          std::uint64_t survey) {
    for (const std::uint64_t id : ids) {
        const auto at = std::find_if(all.begin(), all.end(), [&](const auto& one) { return one->id == id; });
        if (at == all.end())
            throw Error(ErrorCode::Usage, "What this survey is to hold is not there any more");
        auto changed = std::make_shared<T>(**at);
        changed->survey = survey;
        *at = std::move(changed);
    }
}

template <class T>
std::vector<std::uint64_t> held(const std::vector<std::shared_ptr<const T>>& all, std::uint64_t survey) {
    std::vector<std::uint64_t> ids;
    for (const auto& one : all)
        if (one->survey == survey) ids.push_back(one->id);
    return ids;
}

}  // namespace

const Survey* Site::survey(std::uint64_t id) const {
    const auto at = std::find_if(surveys.begin(), surveys.end(), [&](const Survey& s) { return s.id == id; });
    return at == surveys.end() ? nullptr : &*at;
}

std::string date_of(const Site& site, const Item& item) {
    const Survey* survey = site.survey(item.survey);
    return survey && !survey->date.empty() ? survey->date : item.date;
}

SitePtr set_thinned(const Site& site, std::uint64_t id, double largest_error) {
    auto next = std::make_shared<Site>(site);
    const auto at =
        std::find_if(next->items.begin(), next->items.end(), [&](const ItemPtr& i) { return i->id == id; });
    if (at == next->items.end()) throw Error(ErrorCode::Usage, "This item is not there any more");
    auto changed = std::make_shared<Item>(**at);
    changed->thinned = largest_error;
    *at = std::move(changed);
    return next;
}

SitePtr put_survey(const Site& site, Survey survey) {
    require_sense(site, survey);
    auto next = std::make_shared<Site>(site);
    if (survey.id == 0) {
        survey.id = next->next_id++;
        next->surveys.push_back(std::move(survey));
        return next;
    }
    const auto at = std::find_if(next->surveys.begin(), next->surveys.end(),
                                 [&](const Survey& s) { return s.id == survey.id; });
    if (at == next->surveys.end()) throw no_survey();
    *at = std::move(survey);
    return next;
}

SitePtr drop_survey(const Site& site, std::uint64_t survey) {
    auto next = std::make_shared<Site>(site);
    if (std::erase_if(next->surveys, [&](const Survey& s) { return s.id == survey; }) == 0) throw no_survey();
    give(next->items, held(site.items, survey), 0);
    give(next->lines, held(site.lines, survey), 0);
    return next;
}

SitePtr set_survey(const Site& site, std::uint64_t survey, const std::vector<std::uint64_t>& items,
                   const std::vector<std::uint64_t>& lines) {
    if (survey != 0 && !site.survey(survey)) throw no_survey();
    auto next = std::make_shared<Site>(site);
    give(next->items, items, survey);
    give(next->lines, lines, survey);
    return next;
}

SitePtr surveys_of_dates(const Site& site) {
    std::map<std::string, std::vector<std::uint64_t>> dated;
    for (const ItemPtr& i : site.items)
        if (i->survey == 0 && !i->date.empty()) dated[i->date].push_back(i->id);
    if (dated.empty())
        throw Error(ErrorCode::Usage, "No item without a survey has a date", {},
                    "Give dates first, or add surveys by hand.");
    SitePtr next = std::make_shared<Site>(site);
    for (const auto& one : dated) {
        const std::string& date = one.first;  // a binding cannot be captured by every compiler
        // A survey of that date, or under that name, takes them.
        const auto at = std::find_if(next->surveys.begin(), next->surveys.end(),
                                     [&](const Survey& s) { return s.date == date || s.name == date; });
        std::uint64_t survey = at == next->surveys.end() ? 0 : at->id;
        if (survey == 0) {
            survey = next->next_id;
            next = put_survey(*next, {0, date, date, {}, 0, 0});
        }
        next = set_survey(*next, survey, one.second);
    }
    return next;
}

measure::HeightSigma heights_of(const Site& site, const Item& item) {
    measure::HeightSigma s{0, 0, item.thinned};
    if (const Survey* survey = site.survey(item.survey)) {
        s.noise = survey->noise;
        s.systematic = survey->systematic;
    }
    return s;
}

}  // namespace pristine::site

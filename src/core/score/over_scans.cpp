#include "core/score/over_scans.h"

namespace pristine::score {
namespace {

class Judge {
  public:
    explicit Judge(const OverScansRequest& r) : r_(r) {}

    // What the score is asked for, for one scan with all the others beside it.
    Input input(const Scan& one) const {
        Input in{*one.cloud, *one.eligible, r_.compared.cloud, r_.compared.members,
                 r_.line.empty() ? nullptr : &r_.line};
        in.column = r_.column;
        for (const Scan* s : in_order(one))
            if (s != &one && r_.score->looks_beside) in.beside.push_back({s->cloud.get(), s->eligible.get()});
        return in;
    }

    Column values(const Scan& one, Progress& progress) const {
        Column column = compute(*r_.score, input(one), r_.parameters, progress);
        // Scanners name their first station alike in every file: the item is what people know.
        std::size_t at = 0;
        for (const Scan* s : in_order(one)) {
            const std::size_t n = s->cloud->stations().size();
            if (n == 1 && at < column.names.size()) column.names[at] = s->name;
            at += n;
        }
        return column;
    }

    bool can(const Scan& one) const { return !r_.score->why_not || r_.score->why_not(input(one)).empty(); }

  private:
    // The one that is judged comes first, as its stations do in Column::names; the first of all comes last.
    std::vector<const Scan*> in_order(const Scan& one) const {
        std::vector<const Scan*> order{&one};
        for (const Scan& s : r_.others)
            if (&s != &one) order.push_back(&s);
        if (&one != &r_.first) order.push_back(&r_.first);
        return order;
    }
    const OverScansRequest& r_;
};

}  // namespace

OverScans over_scans(const OverScansRequest& r, Progress& progress) {
    const Judge judge(r);
    OverScans result;
    result.first = judge.values(r.first, progress);
    std::vector<Column> columns{result.first};
    for (const Scan& s : r.others) {
        // What says nothing of its station, say, has no values; the others have.
        if (!r.judge_others || !judge.can(s)) continue;
        result.others.push_back({s, judge.values(s, progress)});
        columns.push_back(result.others.back().column);
    }
    result.profile = profile(columns, r.score->logarithmic, kUsualBins, r.begins);
    return result;
}

std::map<std::string, std::uint64_t> word_counts(const Column& values, const cloud::PointCloud& cloud,
                                                 const std::string& column) {
    std::map<std::string, std::uint64_t> counts;
    const cloud::Field* f = cloud.records()->layout().find(column);
    if (!f || !f->words) return counts;
    std::vector<std::uint64_t> of_each(f->words->size());
    for (std::size_t p = 0; p < values.values.page_count(); ++p)
        for (const float v : values.values.page(p))
            if (const double w = values.base + static_cast<double>(v);
                w >= 0 && w < static_cast<double>(of_each.size()))
                ++of_each[static_cast<std::size_t>(w)];
    for (std::size_t k = 0; k < of_each.size(); ++k)
        if (of_each[k] > 0 && !(*f->words)[k].empty()) counts[(*f->words)[k]] += of_each[k];
    return counts;
}

std::vector<std::string> columns_to_judge_by(const cloud::RecordLayout& layout) {
    std::vector<std::string> words, numbers;
    for (const cloud::Field& f : layout.fields)
        if (f.name == "code" && f.words)
            words.insert(words.begin(), f.name);
        else if (f.name != "x" && f.name != "y" && f.name != "z")
            (f.words ? words : numbers).push_back(f.name);
    words.insert(words.end(), numbers.begin(), numbers.end());
    return words;
}

std::vector<const Score*> scores_for(Score::Applies to) {
    std::vector<const Score*> fit;
    for (const Score& s : scores())
        if (s.applies == to || s.applies == Score::Applies::Both) fit.push_back(&s);
    return fit;
}

}  // namespace pristine::score

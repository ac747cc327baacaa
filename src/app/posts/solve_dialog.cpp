// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/posts/solve_dialog.h"

#include "acoustics/lane.h"
#include "app/theme/theme.h"
#include "app/widgets/typed_dialog.h"

#include <QHBoxLayout>
#include <QVBoxLayout>

#include <cmath>

namespace stone
{

namespace
{

enum WishColumn { wishEast, wishNorth, wishHeight, wishValue };

QString said(const Wish& wish, double value)
{
    if (wish.of == Wish::Of::lowPass) {
        return QObject::tr("%1 Hz").arg(std::lround(value));
    }
    return std::isfinite(value) && value > laneSilent_db ? theme::signedNumber(value, 1) + QStringLiteral(" dB")
                                                         : QObject::tr("silent");
}

QString wishedFor(const Wish& wish)
{
    return wish.of == Wish::Of::silent ? QObject::tr("gone") : said(wish, wish.value);
}

} // namespace

SolveDialog::SolveDialog(Session& session, Playback& playback, QWidget* parent)
    : QDialog(parent), session_(session), playback_(playback), whose_(new QLabel),
      table_(new CellTable("wishes", tr("Wishes"),
                           {{tr("East"), tr("Where the character stands, metres"), 62},
                            {tr("North"), tr("Where the character stands, metres"), 62},
                            {tr("Height"), tr("Of the feet, metres"), 58},
                            {tr("Wished"), tr("dB at the ears, or Hz; gone stays gone"), 84},
                            {tr("Now"), tr("What is heard there now"), 84},
                            {tr("Then"), tr("What would be heard there"), 84}})),
      words_(new QLabel), curve_(new QCheckBox(tr("by a curve"))), level_(new QCheckBox(tr("its level may change too"))),
      try_(new QCheckBox(tr("try it: heard and drawn as if it were so"))), accept_(new QPushButton(tr("Accept"))),
      remove_(new QPushButton(tr("Remove")))
{
    setObjectName("solveDialog");
    setWindowTitle(tr("Solve for me"));
    resize(500, 420);
    whose_->setFont(theme::text(10, QFont::Bold));
    whose_->setWordWrap(true);
    words_->setObjectName("solveWords");
    words_->setWordWrap(true);
    words_->setMinimumHeight(70);
    words_->setAlignment(Qt::AlignTop);
    curve_->setObjectName("solveCurve");
    curve_->setToolTip(tr("A curve through the wishes; otherwise a formula is fitted to them"));
    level_->setObjectName("solveLevel");
    level_->setToolTip(tr("Where a wish is louder than a falloff gives at its fullest"));
    try_->setObjectName("solveTry");
    accept_->setObjectName("solveAccept");
    remove_->setObjectName("solveRemove");
    auto* box = new QVBoxLayout(this);
    box->addWidget(whose_);
    auto* add = new QHBoxLayout;
    const struct {
        const char* name;
        QString text;
        QString help;
        Wish::Of of;
    } kinds[] = {
        {"solveWishLevel", tr("So loud here"), tr("A level where the character stands; type it below"), Wish::Of::level},
        {"solveWishGone", tr("Gone here"), tr("Its reach is to end before where the character stands"), Wish::Of::silent},
        {"solveWishDull", tr("No brighter here"), tr("A low-pass where the character stands"), Wish::Of::lowPass}};
    for (const auto& kind : kinds) {
        auto* button = new QPushButton(kind.text);
        button->setObjectName(kind.name);
        button->setToolTip(kind.help);
        connect(button, &QPushButton::clicked, this, [this, of = kind.of] { wishHere(of); });
        add->addWidget(button);
    }
    add->addWidget(remove_);
    box->addLayout(add);
    box->addWidget(table_, 1);
    auto* how = new QHBoxLayout;
    how->addWidget(curve_);
    how->addWidget(level_);
    how->addStretch(1);
    box->addLayout(how);
    box->addWidget(words_);
    auto* end = new QHBoxLayout;
    end->addWidget(try_, 1);
    end->addWidget(accept_);
    box->addLayout(end);
    enterEndsTyping(this);
    connect(table_, &CellTable::typed, this, &SolveDialog::typed);
    connect(remove_, &QPushButton::clicked, this, &SolveDialog::removeWish);
    connect(curve_, &QCheckBox::toggled, this, &SolveDialog::solveAnew);
    connect(level_, &QCheckBox::toggled, this, &SolveDialog::solveAnew);
    connect(try_, &QCheckBox::toggled, this, &SolveDialog::tryIt);
    connect(accept_, &QPushButton::clicked, this, &SolveDialog::accepted);
    connect(&session_, &Session::selectionChanged, this, &SolveDialog::follow);
    connect(&session_, &Session::documentChanged, this, &SolveDialog::solveAnew);
    connect(&session_, &Session::waysFound, this, &SolveDialog::solveAnew);
    follow();
}

/// The selected emitter's wishes; of another one they begin anew.
void SolveDialog::follow()
{
    const Emitter* primary = session_.primary();
    const EmitterId id = primary != nullptr ? primary->id : EmitterId();
    if (id != emitter_ || primary == nullptr) {
        try_->setChecked(false);
        emitter_ = id;
        wishes_.clear();
        emit wishesChanged();
    }
    whose_->setText(primary != nullptr ? tr("How %1 is to be heard").arg(QString::fromStdString(primary->name))
                                       : tr("Select an emitter, walk to where you know how it should be heard, and say so."));
    solveAnew();
}

void SolveDialog::wishHere(Wish::Of of)
{
    if (emitter_.empty()) {
        return;
    }
    Wish wish{.at = playback_.feet().at, .emitter = emitter_, .of = of};
    for (int axis = 0; axis < 3; ++axis) {
        wish.at[axis] = std::round(wish.at[axis] * 100.0) / 100.0;
    }
    constexpr double usual_db = -20.0;
    constexpr double usual_hz = 2'000.0;
    wish.value = of == Wish::Of::lowPass ? usual_hz : usual_db;
    wishes_.push_back(wish);
    solveAnew();
    if (of == Wish::Of::level && solution_.possible && std::isfinite(solution_.outcomes.back().before)) {
        // As it is: from there one types what it should be.
        wishes_.back().value = std::round(solution_.outcomes.back().before * 10.0) / 10.0;
        solveAnew();
    }
    table_->setCurrentCell(static_cast<int>(wishes_.size()) - 1, wishValue);
    emit wishesChanged();
}

void SolveDialog::typed(int row, int column, const QString& text)
{
    if (row < 0 || static_cast<std::size_t>(row) >= wishes_.size()) {
        return;
    }
    Wish& wish = wishes_[static_cast<std::size_t>(row)];
    QString number = text;
    number.remove(QLatin1String("dB")).remove(QLatin1String("Hz"));
    const auto value = CellTable::numberIn(number.trimmed());
    if (value && column <= wishHeight) {
        wish.at[column] = *value;
    } else if (value && column == wishValue && wish.of != Wish::Of::silent) {
        wish.value = wish.of == Wish::Of::lowPass ? std::clamp(*value, openHighPass_hz, openLowPass_hz)
                                                  : std::clamp(*value, laneSilent_db, 40.0);
    }
    solveAnew();
    emit wishesChanged();
}

void SolveDialog::removeWish()
{
    const int row = table_->currentRow();
    if (row >= 0 && static_cast<std::size_t>(row) < wishes_.size()) {
        wishes_.erase(wishes_.begin() + row);
        solveAnew();
        emit wishesChanged();
    }
}

void SolveDialog::solveAnew()
{
    // What is tried must not count as what is there.
    if (solving_) {
        return;
    }
    solving_ = true;
    const bool tried = try_->isChecked();
    playback_.listenOtherwise([](Otherwise& otherwise) { otherwise.falloff.reset(); });
    // Without wishes it says so, and is not possible.
    solution_ = solve(playback_.hearing(), {.wishes = wishes_, .asCurve = curve_->isChecked(), .level = level_->isChecked()});
    present(solution_);
    if (tried && solution_.possible) {
        playback_.listenOtherwise([&](Otherwise& otherwise) {
            otherwise.falloff = Otherwise::Lanes{emitter_, solution_.lanes};
        });
    }
    solving_ = false;
}

void SolveDialog::present(const Solution& solution)
{
    std::vector<QStringList> rows;
    QStringList lines;
    for (std::size_t i = 0; i < wishes_.size(); ++i) {
        const Wish& wish = wishes_[i];
        const bool known = solution.possible;
        rows.push_back({CellTable::shortNumber(wish.at.x), CellTable::shortNumber(wish.at.y), CellTable::shortNumber(wish.at.z),
                        wishedFor(wish), known ? said(wish, solution.outcomes[i].before) : QString(),
                        known ? said(wish, solution.outcomes[i].after) +
                                    (solution.outcomes[i].met ? QStringLiteral(" ✓") : QStringLiteral(" ✗"))
                              : QString()});
    }
    table_->showRows(rows);
    for (std::size_t i = 0; i < solution.words.size() && !wishes_.empty(); ++i) {
        lines << QString::fromStdString(solution.words[i]);
    }
    if (solution.possible && solution.level_db != 0.0) {
        lines << tr("its level by %1 dB").arg(theme::signedNumber(solution.level_db, 1));
    }
    for (const auto& [before, after] : solution.posts) {
        const Post* post = session_.level().posts.find(before.post);
        const QString name = post != nullptr ? QString::fromStdString(post->name) : QString();
        lines << (after.met ? tr("“%1” would hold again").arg(name)
                            : tr("“%1” would be broken: %2").arg(name, QString::fromStdString(after.words)));
    }
    if (solution.possible && !session_.project().gazes.empty()) {
        lines << tr("Gazes are not counted: where one looks changes with every step.");
    }
    if (wishes_.empty()) {
        lines << tr("Nothing is wished for yet: stand where you know how it should be heard, and press a button above.");
    } else if (solution.possible && lines.isEmpty()) {
        lines << tr("All of it can be had.");
    }
    words_->setText(lines.join('\n'));
    accept_->setEnabled(solution.possible);
    try_->setEnabled(solution.possible);
    remove_->setEnabled(!wishes_.empty());
}

void SolveDialog::tryIt(bool)
{
    solveAnew();
}

void SolveDialog::accepted()
{
    if (!solution_.possible) {
        return;
    }
    const Emitter* emitter = session_.level().emitters.find(emitter_);
    if (emitter == nullptr) {
        return;
    }
    const QString name = QString::fromStdString(emitter->name);
    // Into the document, not into what is heard otherwise.
    Project next = withSolution(session_.project(), session_.levelId(), {emitter_}, solution_);
    try_->setChecked(false);
    session_.edit(std::move(next), tr("%1 as wished").arg(name));
}

void SolveDialog::hideEvent(QHideEvent* event)
{
    try_->setChecked(false);
    QDialog::hideEvent(event);
    emit wishesChanged();
}

std::vector<PlanView::PostMark> SolveDialog::marks() const
{
    std::vector<PlanView::PostMark> marks;
    for (std::size_t i = 0; i < wishes_.size() && isVisible(); ++i) {
        const bool met = solution_.possible && solution_.outcomes[i].met;
        marks.push_back({.id = {},
                         .at = wishes_[i].at,
                         .text = tr("wished: %1").arg(wishedFor(wishes_[i])),
                         .broken = solution_.possible && !met,
                         .judged = solution_.possible});
    }
    return marks;
}

} // namespace stone

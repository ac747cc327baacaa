// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/posts/posts_dialog.h"

#include "app/theme/theme.h"
#include "app/widgets/typed_dialog.h"
#include "posts/spot_judge.h"
#include "project/edit.h"

#include <QHBoxLayout>
#include <QVBoxLayout>

#include <cmath>

namespace stone
{

namespace
{

/// What stands at the right of a post: how much is left, or by how much it is missed.
QString marginOf(const Post& post, const PostResult* result)
{
    if (result == nullptr || !result->judged) {
        return QStringLiteral("?");
    }
    constexpr double endless = 199.0;
    if (result->margin > endless) {
        return QString::fromUtf8("✓"); // not heard at all
    }
    const int decimals = post.expects == Post::Expects::voices ? 0 : 1;
    return (result->margin > 0.0 ? QStringLiteral("+") : QString()) + theme::signedNumber(result->margin, decimals);
}

PostId add(Session& session, Post post)
{
    const Level& level = session.level();
    post.id = level.posts.freshId(post.name);
    const PostId id = post.id;
    session.edit(withLevel(session.project(), session.levelId(), [&](Level& l) { l.posts.put(post); }),
                 QObject::tr("Expect: %1").arg(QString::fromStdString(post.name)));
    return id;
}

/// A post where the character stands.
Post here(const Session& session, const Playback& playback)
{
    Post post;
    // To the centimetre and the degree: more would not be typed either.
    for (int axis = 0; axis < 3; ++axis) {
        post.at[axis] = std::round(playback.feet().at[axis] * 100.0) / 100.0;
    }
    post.heading_deg = std::round(std::remainder(playback.feet().heading_deg, 360.0));
    if (const Emitter* primary = session.primary()) {
        post.emitter = primary->id;
    }
    return post;
}

} // namespace

std::optional<PostId> expectWhatIsHeard(Session& session, const Playback& playback, double within_db)
{
    Post post = here(session, playback);
    post.name = "here";
    const PostResult now = judgeStanding(playback.hearing(), {post}, 1).front();
    if (!now.judged || !std::isfinite(now.found)) {
        return {};
    }
    const double found = std::round(now.found * 10.0) / 10.0;
    post.least_db = found - within_db;
    post.most_db = found + within_db;
    const Emitter* primary = session.primary();
    post.name = primary != nullptr ? primary->name + " as it is here" : "As loud as it is here";
    return add(session, post);
}

std::optional<PostId> expectUnheard(Session& session, const Playback& playback)
{
    Post post = here(session, playback);
    const Emitter* primary = session.primary();
    if (primary == nullptr) {
        return {};
    }
    post.expects = Post::Expects::unheard;
    post.name = primary->name + " not heard here";
    return add(session, post);
}

PostsDialog::PostsDialog(Session& session, Playback& playback, PostDesk& desk, QWidget* parent)
    : QDialog(parent), session_(session), playback_(playback), desk_(desk), list_(new RowList), summary_(new QLabel),
      words_(new QLabel), form_(new PostForm(session)), go_(new QPushButton(tr("Go there"))),
      breaker_(new QPushButton(tr("Which edit broke it?"))), remove_(new QPushButton(tr("Delete"))), walk_(new QPushButton)
{
    setObjectName("postsDialog");
    setWindowTitle(tr("Posts: what is expected"));
    resize(820, 480);
    list_->setObjectName("postsList");
    list_->setAccessibleName(tr("Posts"));
    summary_->setObjectName("postsSummary");
    words_->setObjectName("postsWords");
    words_->setWordWrap(true);
    words_->setMinimumHeight(52);
    words_->setAlignment(Qt::AlignTop);
    words_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    auto* fresh = new QPushButton(tr("New"));
    auto* heard = new QPushButton(tr("Expect what is heard here"));
    heard->setToolTip(tr("Of the selected emitter, or of everything together, where the character stands: within 2 dB"));
    for (const auto& [button, name] : {std::pair{go_, "postsGo"},
                                       {breaker_, "postsBreaker"},
                                       {remove_, "postsRemove"},
                                       {walk_, "postsWalk"},
                                       {fresh, "postsNew"},
                                       {heard, "postsHeard"}}) {
        button->setObjectName(name);
    }
    auto* left = new QVBoxLayout;
    left->addWidget(summary_);
    left->addWidget(list_, 1);
    auto* under = new QHBoxLayout;
    under->addWidget(heard);
    under->addWidget(fresh);
    under->addWidget(remove_);
    left->addLayout(under);
    left->addWidget(walk_);
    auto* right = new QVBoxLayout;
    right->addWidget(words_);
    auto* there = new QHBoxLayout;
    there->addWidget(go_);
    there->addWidget(breaker_);
    there->addStretch(1);
    right->addLayout(there);
    right->addWidget(form_, 1);
    auto* box = new QHBoxLayout(this);
    box->setSpacing(14);
    box->addLayout(left, 4);
    box->addLayout(right, 5);
    enterEndsTyping(this);

    connect(list_, &RowList::chosen, this, &PostsDialog::showChosen);
    connect(list_, &QListView::activated, go_, &QPushButton::click);
    connect(&desk_, &PostDesk::changed, this, &PostsDialog::refresh);
    connect(&desk_, &PostDesk::progressed, this, &PostsDialog::showChosen);
    connect(&session_, &Session::documentChanged, this, &PostsDialog::refresh);
    connect(fresh, &QPushButton::clicked, this, &PostsDialog::make);
    connect(remove_, &QPushButton::clicked, this, &PostsDialog::remove);
    connect(heard, &QPushButton::clicked, this, [this] {
        if (const auto id = expectWhatIsHeard(session_, playback_, 2.0)) {
            choose(*id);
        } else {
            words_->setText(tr("Nothing of it is heard where the character stands."));
        }
    });
    connect(go_, &QPushButton::clicked, this, [this] {
        const Post* post = session_.level().posts.find(chosen());
        const PostResult* result = desk_.resultOf(chosen());
        if (post != nullptr) {
            emit placeWanted(result != nullptr && result->judged ? result->at : post->at);
        }
    });
    connect(breaker_, &QPushButton::clicked, this, [this] { desk_.findBreaker(chosen()); });
    connect(&desk_, &PostDesk::brokenBy, this, [this](const PostId& id, const QString& said) {
        if (id == chosen()) {
            showChosen();
            words_->setText(words_->text() + QStringLiteral("\n") + said);
        }
    });
    connect(walk_, &QPushButton::clicked, this, [this] {
        desk_.doing().isEmpty() ? desk_.walkNow() : desk_.stopWalking();
        showChosen();
    });
    refresh();
}

PostId PostsDialog::chosen() const
{
    return {list_->currentKey().toStdString()};
}

void PostsDialog::choose(const PostId& id)
{
    refresh();
    list_->setCurrentKey(QString::fromStdString(id.text), true);
    showChosen();
}

void PostsDialog::refresh()
{
    std::vector<Row> rows;
    const Level& level = session_.level();
    for (const auto& post : level.posts) {
        const PostResult* result = desk_.resultOf(post->id);
        Row row;
        row.key = QString::fromStdString(post->id.text);
        row.title = QString::fromStdString(post->name);
        row.detail = QString::fromStdString(expectationOf(level, *post));
        row.value = post->on ? marginOf(*post, result) : tr("off");
        row.warning = post->on && result != nullptr && !result->met;
        row.faint = !post->on || result == nullptr || desk_.stale(post->id);
        rows.push_back(std::move(row));
    }
    const int count = static_cast<int>(rows.size());
    list_->setRows(std::move(rows));
    if (list_->currentKey().isEmpty() && count > 0) {
        list_->setCurrentKey(QString::fromStdString(level.posts[0]->id.text));
    }
    const int broken = desk_.broken();
    summary_->setText(count == 0    ? tr("Nothing is expected yet. Stand somewhere and press the button below.")
                      : broken == 0 ? tr("All hold, as far as they are judged.")
                                    : tr("%1 of %2 broken").arg(broken).arg(count));
    showChosen();
}

void PostsDialog::showChosen()
{
    const PostId id = chosen();
    const Post* post = session_.level().posts.find(id);
    form_->show(id);
    for (QPushButton* button : {go_, remove_}) {
        button->setEnabled(post != nullptr);
    }
    const PostResult* result = desk_.resultOf(id);
    breaker_->setEnabled(post != nullptr && result != nullptr && !result->met);
    const QString doing = desk_.doing();
    walk_->setText(doing.isEmpty() ? tr("Judge those along walks now") : tr("Stop: %1").arg(doing));
    if (post == nullptr) {
        words_->clear();
        return;
    }
    QString said = result == nullptr ? tr("Not judged yet. Those along walks are judged a while after the last edit, or now by "
                                          "the button under the list.")
                                     : QString::fromStdString(result->words);
    if (result != nullptr && result->judged) {
        said = (result->met ? tr("Holds: ") : tr("Broken: ")) + said;
        if (result->t_s >= 0.0) {
            said += tr(" · at %1 of its walk").arg(theme::clock(result->t_s));
        }
    }
    if (result != nullptr && desk_.stale(id)) {
        said += tr(" · from before the last edit");
    }
    words_->setText(said);
}

void PostsDialog::make()
{
    Post post = here(session_, playback_);
    post.name = tr("New post").toStdString();
    post.expects = Post::Expects::heard;
    choose(add(session_, post));
}

void PostsDialog::remove()
{
    const Post* post = session_.level().posts.find(chosen());
    if (post != nullptr) {
        const QString name = QString::fromStdString(post->name);
        session_.edit(withLevel(session_.project(), session_.levelId(), [&](Level& level) { level.posts.remove(post->id); }),
                      tr("%1 deleted").arg(name));
    }
}

} // namespace stone

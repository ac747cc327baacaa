// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/main_window.h"

#include "app/theme/theme.h"

/// Posts: what is expected of the level, on the Plan and in a list.
namespace stone
{

PostsDialog& MainWindow::showPosts()
{
    if (posts_ == nullptr) {
        posts_ = new PostsDialog(session_, playback_, *postDesk_, this);
        connect(posts_, &PostsDialog::placeWanted, this, [this](const Vec3& feet) {
            Pose there = playback_.feet();
            there.at = feet;
            playback_.placeFeet(there);
        });
    }
    posts_->show();
    posts_->raise();
    posts_->activateWindow();
    return *posts_;
}

void MainWindow::showWishes()
{
    if (solve_ == nullptr) {
        solve_ = new SolveDialog(session_, playback_, this);
        connect(solve_, &SolveDialog::wishesChanged, this, &MainWindow::showPostMarks);
    }
    solve_->show();
    solve_->raise();
    solve_->activateWindow();
    showPostMarks();
}

/// Levels of the selected emitter's family such that each of it is as loud at its own post.
void MainWindow::evenOutFamily()
{
    const Emitter* primary = session_.primary();
    const Family* family = primary != nullptr ? session_.project().families.find(primary->family) : nullptr;
    if (family == nullptr) {
        banner_->say(tr("Select an emitter of the family whose members are to be as loud at their posts."));
        return;
    }
    const QString name = QString::fromStdString(family->name);
    const EvenOut even = evenOut(playback_.hearing(), family->id);
    if (even.members.size() < 2) {
        banner_->say(tr("Fewer than two of %1 have a post of their own: a spot where their level is expected.").arg(name));
        return;
    }
    session_.edit(withEvened(session_.project(), session_.levelId(), even), tr("%1 evened out").arg(name));
    banner_->say(tr("%n of %1 are %2 dB at their posts now.", nullptr, static_cast<int>(even.members.size()))
                     .arg(name, theme::signedNumber(even.target_db, 1)));
}

/// A flag for each post that stands somewhere; of those along walks where they are broken.
void MainWindow::showPostMarks()
{
    std::vector<PlanView::PostMark> marks;
    for (const auto& post : session_.level().posts) {
        const PostResult* result = post->on ? postDesk_->resultOf(post->id) : nullptr;
        const bool known = result != nullptr && result->judged;
        const bool broken = result != nullptr && !result->met;
        if (!post->on || (post->where != Post::Where::spot && !(known && broken))) {
            continue;
        }
        QString text = QString::fromStdString(post->name);
        if (known) {
            text +=
                (result->margin > 0.0 ? QStringLiteral("  +") : QStringLiteral("  ")) + theme::signedNumber(result->margin, 1);
        }
        marks.push_back({.id = post->id,
                         .at = post->where == Post::Where::spot ? post->at : result->at,
                         .text = text,
                         .broken = broken,
                         .judged = result != nullptr});
    }
    if (solve_ != nullptr) {
        const auto wishes = solve_->marks();
        marks.insert(marks.end(), wishes.begin(), wishes.end());
    }
    plan_->showPosts(std::move(marks));
}

/// What can be expected of where the character stands.
void MainWindow::offerPosts(const QPoint& global, bool onEars)
{
    if (!onEars) {
        return;
    }
    QMenu menu;
    const Emitter* primary = session_.primary();
    const QString who = primary != nullptr ? QString::fromStdString(primary->name) : tr("everything together");
    QAction* heard = menu.addAction(tr("Expect %1 as it is heard here, within 2 dB").arg(who));
    QAction* unheard = menu.addAction(tr("Expect that %1 is not heard here").arg(who));
    unheard->setEnabled(primary != nullptr);
    menu.addSeparator();
    QAction* list = menu.addAction(tr("What is expected…"));
    const QAction* chosen = menu.exec(global);
    if (chosen == list) {
        showPosts();
    } else if (chosen != nullptr) {
        const auto made = chosen == heard ? expectWhatIsHeard(session_, playback_, 2.0) : expectUnheard(session_, playback_);
        made ? showPosts().choose(*made) : banner_->say(tr("%1: nothing of it is heard here.").arg(who));
    }
}

} // namespace stone

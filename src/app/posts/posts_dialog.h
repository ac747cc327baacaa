// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/lists/row_list.h"
#include "app/posts/post_desk.h"
#include "app/posts/post_form.h"

#include <QDialog>
#include <QLabel>
#include <QPushButton>

namespace stone
{

/// What is expected of the level: a list with what is left to each bound, and the chosen one in full.
class PostsDialog : public QDialog
{
    Q_OBJECT

public:
    PostsDialog(Session& session, Playback& playback, PostDesk& desk, QWidget* parent = nullptr);

    void choose(const PostId& id);

signals:
    /// The character is to stand where a post is broken, or stands.
    void placeWanted(const Vec3& feet);

private:
    void refresh();
    void showChosen();
    void make();
    void remove();
    PostId chosen() const;

    Session& session_;
    Playback& playback_;
    PostDesk& desk_;
    RowList* list_;
    QLabel* summary_;
    QLabel* words_;
    PostForm* form_;
    QPushButton* go_;
    QPushButton* breaker_;
    QPushButton* remove_;
    QPushButton* walk_;
};

/// A post that expects what is heard where the character stands: of the selected emitter or, without one, of everything
/// together, within so many dB. One step of the history. Nothing where it is silent there.
std::optional<PostId> expectWhatIsHeard(Session& session, const Playback& playback, double within_db);
/// And one that expects that the selected emitter is not heard there.
std::optional<PostId> expectUnheard(Session& session, const Playback& playback);

} // namespace stone

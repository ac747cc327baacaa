// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/thing_form.h"

namespace stone
{

/// One post, field by field.
class PostForm : public ThingForm<Post>
{
    Q_OBJECT

public:
    explicit PostForm(Session& session, QWidget* parent = nullptr);

    void show(const PostId& id);
    const PostId& shown() const { return shown_; }

protected:
    const Post* thing() const override { return session_.level().posts.find(shown_); }
    void edit(const QString& what, const QString& gesture, const std::function<void(Post&)>& change) override;

private:
    QWidget* makeWhere();
    QWidget* makeBounds();

    PostId shown_;
};

/// What a post is about, as the lists of the window name it.
QStringList postExpectsNames();

} // namespace stone

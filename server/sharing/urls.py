from django.urls import path

from sharing import views

urlpatterns = [
    path("songs/<int:pk>/comments", views.CommentsView.as_view()),
    path("comments/<int:pk>", views.CommentView.as_view()),
    path("mentions", views.MentionsView.as_view()),
    path("songs/<int:pk>/history", views.HistoryView.as_view()),
    path("named-versions/<int:pk>", views.NamedVersionView.as_view()),
]

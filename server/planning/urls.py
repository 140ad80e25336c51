from django.urls import path

from planning import views

urlpatterns = [
    path("set-lists", views.SetListsView.as_view()),
    path("set-lists/<int:pk>", views.SetListView.as_view()),
    path("set-lists/<int:pk>/paper", views.SetListPaperView.as_view()),
    path("given-lists/<str:token>", views.GivenListView.as_view()),
    path("lessons", views.LessonsView.as_view()),
    path("forecast", views.ForecastView.as_view()),
    path("songs/<int:pk>/minutes", views.MinutesView.as_view()),
]

from django.urls import path

from practice import views

urlpatterns = [
    path("songs/<int:pk>/stages", views.StagesView.as_view()),
    path("songs/<int:pk>/judge", views.JudgeView.as_view()),
]

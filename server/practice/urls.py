from django.urls import path

from practice import views

urlpatterns = [
    path("songs/<int:pk>/stages", views.StagesView.as_view()),
    path("songs/<int:pk>/judge", views.JudgeView.as_view()),
    path("songs/<int:pk>/loops", views.LoopsView.as_view()),
    path("songs/<int:pk>/simulate", views.SimulateView.as_view()),
    path("songs/<int:pk>/question", views.QuestionView.as_view()),
    path("practice", views.LogView.as_view()),
    path("practice/plan", views.PlanView.as_view()),
]

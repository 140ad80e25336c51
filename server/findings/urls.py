from django.urls import path

from findings import hand_views, views

urlpatterns = [
    path("songs/<int:pk>/grooves", views.GroovesView.as_view()),
    path("songs/<int:pk>/elsewhere", views.ElsewhereView.as_view()),
    path("songs/<int:pk>/bass", views.BassView.as_view()),
    path("songs/<int:pk>/fills", views.FillsView.as_view()),
    path("songs/<int:pk>/sounds", views.SoundsView.as_view()),
    path("songs/<int:pk>/feel", views.FeelView.as_view()),
    path("songs/<int:pk>/evidence", views.EvidenceView.as_view()),
    path("songs/<int:pk>/decisions", views.DecisionsView.as_view()),
    path("songs/<int:pk>/search", views.SearchView.as_view()),
    path("songs/<int:pk>/hands", hand_views.HandsView.as_view()),
    path("songs/<int:pk>/stickings", hand_views.StickingsView.as_view()),
    path("songs/<int:pk>/proposals", hand_views.ProposalsView.as_view()),
    path("kept-fills", views.KeptFillsView.as_view()),
    path("kept-fills/<int:pk>", views.KeptFillView.as_view()),
]

from django.urls import path
from rest_framework.routers import SimpleRouter

from transcription import finding_views, hand_views, request_views, shelf_views, views

router = SimpleRouter(trailing_slash=False)
router.register("songs", shelf_views.SongViewSet, basename="song")
urlpatterns = [
    path("songs/<int:pk>/transcription", views.TranscriptionView.as_view()),
    path("songs/<int:pk>/transcription/edits", views.EditsView.as_view()),
    path("songs/<int:pk>/transcription/undo", views.UndoView.as_view()),
    path("songs/<int:pk>/transcription/redo", views.RedoView.as_view()),
    path("songs/<int:pk>/transcription/compare", views.CompareView.as_view()),
    path("songs/<int:pk>/transcription/review", views.ReviewView.as_view()),
    path("songs/<int:pk>/transcription/text", views.CountTextView.as_view()),
    path("songs/<int:pk>/transcription/band", views.BandView.as_view()),
    path("songs/<int:pk>/grooves", finding_views.GroovesView.as_view()),
    path("songs/<int:pk>/elsewhere", finding_views.ElsewhereView.as_view()),
    path("songs/<int:pk>/bass", finding_views.BassView.as_view()),
    path("songs/<int:pk>/hands", hand_views.HandsView.as_view()),
    path("songs/<int:pk>/stickings", hand_views.StickingsView.as_view()),
    path("songs/<int:pk>/proposals", hand_views.ProposalsView.as_view()),
    path("songs/<int:pk>/arrangements", hand_views.ArrangementsView.as_view()),
    path("songs/<int:pk>/arrangements/<int:number>", hand_views.ArrangementView.as_view()),
    path(
        "songs/<int:pk>/arrangements/<int:number>/differences",
        hand_views.ArrangementDifferencesView.as_view(),
    ),
    path(
        "songs/<int:pk>/arrangements/<int:number>/update",
        hand_views.ArrangementUpdateView.as_view(),
    ),
    path("request-form", request_views.RequestFormView.as_view()),
    path("asked/<str:token>", request_views.AskedSongsView.as_view()),
    path("asked/<str:token>/votes", request_views.VotesView.as_view()),
    path("keys-of-mine", hand_views.KeysOfMineView.as_view()),
    path("kit-of-mine", hand_views.KitOfMineView.as_view()),
    path("counting/<str:school>", hand_views.CountingView.as_view()),
    path("songs/<int:pk>/fills", finding_views.FillsView.as_view()),
    path("songs/<int:pk>/sounds", finding_views.SoundsView.as_view()),
    path("songs/<int:pk>/feel", finding_views.FeelView.as_view()),
    path("songs/<int:pk>/evidence", finding_views.EvidenceView.as_view()),
    path("songs/<int:pk>/decisions", finding_views.DecisionsView.as_view()),
    path("songs/<int:pk>/search", finding_views.SearchView.as_view()),
    path("kept-fills", finding_views.KeptFillsView.as_view()),
    path("kept-fills/<int:pk>", finding_views.KeptFillView.as_view()),
    path("songs/<int:pk>/chart", views.ChartView.as_view()),
    *(
        path(f"songs/<int:pk>/chart.{ending}", views.ChartFileView.as_view(), {"ending": ending})
        for ending in views.WRITERS
    ),
    *router.urls,
]

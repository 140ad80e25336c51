from django.urls import path

from arrangements import preference_views, side_by_side, views

_ARRANGEMENT = "songs/<int:pk>/arrangements/<int:number>"
urlpatterns = [
    path("songs/<int:pk>/transcription", views.TranscriptionView.as_view()),
    path("songs/<int:pk>/transcription/edits", views.EditsView.as_view()),
    path("songs/<int:pk>/transcription/undo", views.UndoView.as_view()),
    path("songs/<int:pk>/transcription/redo", views.RedoView.as_view()),
    path("songs/<int:pk>/transcription/compare", views.CompareView.as_view()),
    path("songs/<int:pk>/transcription/review", views.ReviewView.as_view()),
    path("songs/<int:pk>/transcription/text", views.CountTextView.as_view()),
    path("songs/<int:pk>/transcription/band", views.BandView.as_view()),
    path("songs/<int:pk>/arrangements", side_by_side.ArrangementsView.as_view()),
    path(_ARRANGEMENT, side_by_side.ArrangementView.as_view()),
    path(f"{_ARRANGEMENT}/differences", side_by_side.ArrangementDifferencesView.as_view()),
    path(f"{_ARRANGEMENT}/update", side_by_side.ArrangementUpdateView.as_view()),
    path("keys-of-mine", preference_views.KeysOfMineView.as_view()),
    path("kit-of-mine", preference_views.KitOfMineView.as_view()),
    path("counting/<str:school>", preference_views.CountingView.as_view()),
]

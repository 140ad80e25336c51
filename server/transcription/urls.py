from django.urls import path, re_path

from transcription import views

urlpatterns = [
    path("songs/<int:pk>/transcription", views.TranscriptionView.as_view()),
    path("songs/<int:pk>/transcription/edits", views.EditsView.as_view()),
    path("songs/<int:pk>/transcription/undo", views.UndoView.as_view()),
    path("songs/<int:pk>/transcription/redo", views.RedoView.as_view()),
    path("songs/<int:pk>/chart", views.ChartView.as_view()),
    re_path(
        r"^songs/(?P<pk>\d+)/chart\.(?P<ending>pdf|musicxml|mid)$", views.ChartFileView.as_view()
    ),
    re_path(r"^jobs/(?P<pk>\d+)/(?P<act>cancel|retry)$", views.JobActionView.as_view()),
]

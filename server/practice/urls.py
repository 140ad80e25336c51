from django.urls import path

from practice import by_sound, clips, export_views, link_views, rhythm_views, views

urlpatterns = [
    path("songs/<int:pk>/stages", views.StagesView.as_view()),
    path("songs/<int:pk>/stages/staff", views.StageStaffView.as_view()),
    path("songs/<int:pk>/stages/sheet", views.StageSheetView.as_view()),
    path("songs/<int:pk>/rhythm-words", rhythm_views.RhythmWordsView.as_view()),
    path("my-words", rhythm_views.MyWordsView.as_view()),
    path("spoken-words/<str:word>", rhythm_views.SpokenWordView.as_view()),
    path("songs/<int:pk>/clips", clips.ClipsView.as_view()),
    path("clips/<int:pk>", clips.ClipView.as_view()),
    path("player/<str:token>/clips/<int:number>", link_views.GivenClipView.as_view()),
    path("player/<str:token>/words/<str:word>", link_views.GivenWordView.as_view()),
    path("songs/<int:pk>/judge", views.JudgeView.as_view()),
    path("songs/<int:pk>/loops", views.LoopsView.as_view()),
    path("songs/<int:pk>/simulate", views.SimulateView.as_view()),
    path("songs/<int:pk>/question", views.QuestionView.as_view()),
    path("songs/<int:pk>/player-links", link_views.LinksView.as_view()),
    path("player-links/<int:pk>", link_views.LinkView.as_view()),
    path("player-links/<int:pk>/update", link_views.LinkUpdateView.as_view()),
    path("player-links/<int:pk>/sheet", link_views.LinkSheetView.as_view()),
    path("player/<str:token>", link_views.GivenLessonView.as_view()),
    path("player/<str:token>/pages/<int:number>", link_views.GivenPageView.as_view()),
    path("player/<str:token>/sound/<int:number>", link_views.GivenSoundView.as_view()),
    path("player/<str:token>/progress", link_views.GivenProgressView.as_view()),
    path("songs/<int:pk>/play-alongs", export_views.PlayAlongsView.as_view()),
    path("songs/<int:pk>/practised-sounds", by_sound.PractisedSoundsView.as_view()),
    path("practised-sounds/<int:pk>", by_sound.PractisedSoundView.as_view()),
    path("play-alongs/<int:pk>/file", export_views.PlayAlongFileView.as_view()),
    path("practice", views.LogView.as_view()),
    path("practice/plan", views.PlanView.as_view()),
]

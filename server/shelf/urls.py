from django.urls import path
from rest_framework.routers import SimpleRouter

from shelf import request_views, views

router = SimpleRouter(trailing_slash=False)
router.register("songs", views.SongViewSet, basename="song")
urlpatterns = [
    path("request-form", request_views.RequestFormView.as_view()),
    path("asked/<str:token>", request_views.AskedSongsView.as_view()),
    path("asked/<str:token>/votes", request_views.VotesView.as_view()),
    *router.urls,
]

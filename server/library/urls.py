from django.urls import path
from rest_framework.routers import SimpleRouter

from library.views import (
    SessionView,
    SongViewSet,
    TakeOriginalView,
    TakeOutlineView,
    TakePictureView,
    TakeSoundView,
)

router = SimpleRouter(trailing_slash=False)
router.register("songs", SongViewSet, basename="song")
urlpatterns = [
    path("session", SessionView.as_view()),
    path("takes/<int:pk>/sound/<int:number>", TakeSoundView.as_view()),
    path("takes/<int:pk>/outline", TakeOutlineView.as_view()),
    path("takes/<int:pk>/original", TakeOriginalView.as_view()),
    path("takes/<int:pk>/picture", TakePictureView.as_view()),
    *router.urls,
]

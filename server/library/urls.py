from django.urls import path

from library.views import (
    TakeOriginalView,
    TakeOutlineView,
    TakePictureView,
    TakeRightsView,
    TakeSoundView,
)

urlpatterns = [
    path("takes/<int:pk>/rights", TakeRightsView.as_view()),
    path("takes/<int:pk>/sound/<int:number>", TakeSoundView.as_view()),
    path("takes/<int:pk>/outline", TakeOutlineView.as_view()),
    path("takes/<int:pk>/original", TakeOriginalView.as_view()),
    path("takes/<int:pk>/picture", TakePictureView.as_view()),
]

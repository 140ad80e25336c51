from django.urls import path

from keeping import views

urlpatterns = [
    path("songs/<int:pk>/package", views.SongPackageView.as_view()),
    path("packages", views.PackagesView.as_view()),
    path("account", views.AccountView.as_view()),
    path("account/end", views.AccountEndView.as_view()),
    path("account/backup", views.BackupView.as_view()),
]

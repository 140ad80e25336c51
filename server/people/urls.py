from django.urls import path

from people import group_views, session_views

urlpatterns = [
    path("session", session_views.SessionView.as_view()),
    path("accounts", session_views.AccountsView.as_view()),
    path("account/password", session_views.PasswordView.as_view()),
    path("account/devices", session_views.DevicesView.as_view()),
    path("invitations/<str:token>", session_views.InvitationView.as_view()),
    path("groups", group_views.GroupsView.as_view()),
    path("groups/<int:pk>", group_views.GroupView.as_view()),
    path("groups/<int:pk>/invitations", group_views.InvitationsView.as_view()),
    path("groups/<int:pk>/invitations/<int:number>", group_views.InvitationOfGroupView.as_view()),
    path("groups/<int:pk>/members/<int:user>", group_views.MemberView.as_view()),
]

"""The addresses of the sign-in library that the application uses. It has more, such as one for another e-mail address that nobody has
confirmed: what is not named here is not open."""

from allauth.headless.account import views
from allauth.headless.constants import Client
from allauth.headless.mfa import views as second
from allauth.headless.socialaccount import views as provided
from allauth.headless.usersessions import views as sessions
from django.urls import include, path

from server.door.provider import ToProvider, from_provider

_USED = {
    "auth/session": views.SessionView,
    "auth/login": views.LoginView,
    "auth/signup": views.SignupView,
    "auth/password/request": views.RequestPasswordResetView,
    "auth/password/reset": views.ResetPasswordView,
    "auth/reauthenticate": views.ReauthenticateView,
    "auth/2fa/authenticate": second.AuthenticateView,
    "auth/2fa/reauthenticate": second.ReauthenticateView,
    "auth/webauthn/authenticate": second.AuthenticateWebAuthnView,
    "auth/webauthn/reauthenticate": second.ReauthenticateWebAuthnView,
    "auth/webauthn/login": second.LoginWebAuthnView,
    "auth/sessions": sessions.SessionsView,
    "auth/provider/redirect": ToProvider,
    "account/providers": provided.ManageProvidersView,
    "account/authenticators": second.AuthenticatorsView,
    "account/authenticators/totp": second.ManageTOTPView,
    "account/authenticators/webauthn": second.ManageWebAuthnView,
    "account/authenticators/recovery-codes": second.ManageRecoveryCodesView,
    "account/password/change": views.ChangePasswordView,
}
_browser = [path(address, view.as_api_view(client=Client.BROWSER), name=address) for address, view in _USED.items()]
urlpatterns = [
    path("browser/v1/", include(_browser)),
    path("provider/<slug:provider_id>/back", from_provider, name="openid_connect_callback"),
]

<?php

declare(strict_types=1);

use App\Console\Commands;
use App\Http\Middleware\ContentSecurity;
use App\Http\Middleware\KnownHost;
use App\Http\Middleware\LookAgain;
use App\Http\Middleware\PasswordAgain;
use App\Http\Middleware\PlainParameters;
use App\Http\Middleware\SessionLimit;
use App\Instance;
use App\Kinds\Kinds;
use App\Kinds\OfKind;
use App\Kinds\Refusal;
use Illuminate\Auth\Middleware\Authorize;
use Illuminate\Foundation\Application;
use Illuminate\Foundation\Configuration\Exceptions;
use Illuminate\Foundation\Configuration\Middleware;
use Illuminate\Http\Middleware\HandleCors;
use Illuminate\View\ViewException;
use Kaiseki\Core\Catalog\UnsafePath;
use Symfony\Component\HttpKernel\Exception\HttpExceptionInterface;
use Symfony\Component\HttpKernel\Exception\NotFoundHttpException;

// What is written holds what others lost, or must not read: it is for this account alone, whatever the shell's umask is.
umask(0077);

// Everything that is written lies under the home, so that several instances run from one checkout.
$home = Instance::home();
foreach (['CONFIG', 'ROUTES', 'EVENTS', 'SERVICES', 'PACKAGES'] as $cache) {
    $_SERVER["APP_{$cache}_CACHE"] = $_ENV["APP_{$cache}_CACHE"] = "$home/cache/".strtolower($cache).'.php';
}

$app = Application::configure(basePath: dirname(__DIR__))
    ->withRouting(web: __DIR__.'/../routes/web.php', commands: __DIR__.'/../routes/console.php')
    ->withCommands([Commands\MakeDemo::class, Commands\MakeUser::class, Commands\ListSignIns::class, Commands\KeepHelpers::class])
    ->withMiddleware(function (Middleware $middleware): void {
        $middleware->remove(HandleCors::class);
        $middleware->prepend(KnownHost::class);
        $middleware->append(ContentSecurity::class);
        $middleware->append(PlainParameters::class);
        $middleware->appendToGroup('web', [SessionLimit::class, LookAgain::class]);
        $middleware->trustProxies(at: Instance::proxies());
        $middleware->trimStrings(except: ['path', 'folder', 'rename', 'begins']); // names may begin and end with anything
        // Who may not do a thing hears that, and not whether it could be done.
        $middleware->appendToPriorityList(Authorize::class, OfKind::class);
        $middleware->appendToPriorityList(OfKind::class, PasswordAgain::class);
        $middleware->redirectGuestsTo('/sign-in');
        $middleware->redirectUsersTo('/');
    })
    ->withExceptions(function (Exceptions $exceptions): void {
        // A path in an address that no file system could hold leads nowhere.
        $exceptions->map(
            UnsafePath::class,
            fn (UnsafePath $unsafe): NotFoundHttpException => new NotFoundHttpException($unsafe->getMessage(), $unsafe),
        );
        // What a kind says stands in the way is told as it says it; of one that fails, that it does.
        $exceptions->dontReport(Refusal::class);
        $exceptions->render(function (Throwable $failure) {
            $failure = $failure instanceof ViewException ? $failure->getPrevious() ?? $failure : $failure;
            $kind = $failure instanceof HttpExceptionInterface || $failure instanceof Refusal ? null : Kinds::culprit($failure);

            return match (true) {
                $failure instanceof Refusal => response()->view(
                    'errors.kind',
                    ['title' => 'This cannot be done now', 'words' => $failure->getMessage()],
                    409,
                ),
                $kind !== null => response()->view(
                    'errors.kind',
                    ['title' => "The kind \"{$kind->name()}\" failed", 'words' => mb_scrub($failure->getMessage())],
                    500,
                ),
                default => null,
            };
        });
    })
    ->create();

$app->useStoragePath("$home/storage");
$app->useEnvironmentPath($home);

return $app;

<?php

declare(strict_types=1);

use App\Agents\Agent;
use App\Http\Controllers as C;
use App\Http\Middleware\PasswordAgain;
use App\Models\RecoveryRequest;
use Illuminate\Support\Facades\Route;

Route::get('/health', C\HealthController::class)->withoutMiddleware('web');

Route::middleware('guest')->group(function (): void {
    Route::get('/sign-in', [C\SignInController::class, 'create'])->name('login');
    Route::post('/sign-in', [C\SignInController::class, 'store']);
});

Route::middleware('auth')->group(function (): void {
    Route::post('/sign-out', [C\SignInController::class, 'destroy']);
    Route::get('/sessions', [C\SessionController::class, 'index']);
    Route::post('/sessions', [C\SessionController::class, 'destroy']);
    Route::get('/password', [C\PasswordController::class, 'show']);
    Route::post('/password', [C\PasswordController::class, 'store']);
    Route::get('/', C\DeskController::class);
    Route::post('/filters', C\SavedFilterController::class);
    Route::middleware('can:see-estate')->group(function (): void {
        Route::get('/estate', C\EstateController::class);
        Route::post('/look-again', C\LookAgainController::class);
        Route::get('/stores', C\StoreController::class);
        Route::get('/stores/{store:name}/cartridges/{label}', [C\CartridgeController::class, 'show'])->can('view', 'store');
        Route::get('/agents', [C\AgentController::class, 'index']);
        Route::get('/kinds', C\KindController::class);
        Route::get('/use', C\UseController::class);
        Route::get('/activity', [C\ActivityController::class, 'index']);
        Route::get('/activity/{sort}/{id}', [C\ActivityController::class, 'show'])->whereNumber('id');
        Route::get('/proofs', [C\ProofController::class, 'index']);
        Route::get('/alarms', [C\AlarmController::class, 'index']);
    });
    Route::post('/stores/{store:name}/cartridges/{label}', [C\CartridgeController::class, 'update'])->can('tend', 'store');
    Route::get('/workloads/{workload}', C\WorkloadController::class)->can('view', 'workload');
    Route::get('/workloads/{workload}/care', C\CareController::class)->can('view', 'workload');
    Route::post('/workloads/{workload}/approval', C\ApprovalRuleController::class)->can('view', 'workload');
    Route::middleware('can:tend,workload')->prefix('/workloads/{workload}')->group(function (): void {
        Route::post('/sets', C\MakeSetController::class);
        Route::post('/schedule', C\ScheduleController::class);
        Route::post('/rules', C\KeepRuleController::class);
        Route::post('/exclusions', C\ExclusionController::class);
        Route::post('/expire', C\ExpireController::class)->middleware(PasswordAgain::class);
        Route::post('/promises', C\PromiseController::class);
        Route::post('/read-back', C\ReadBackWorkloadController::class);
    });
    Route::get('/sets/{backupSet}', C\SetController::class)->can('view', 'backupSet');
    Route::middleware('can:tend,backupSet')->prefix('/sets/{backupSet}')->group(function (): void {
        Route::post('/read-back', C\ReadBackSetController::class);
        Route::post('/mend', C\MendController::class);
        Route::post('/verdict', C\VerdictController::class);
        Route::post('/holds', [C\HoldController::class, 'store']);
        Route::post('/holds/{hold}/lift', [C\HoldController::class, 'destroy']);
    });
    Route::post('/agents', [C\AgentController::class, 'store'])->can('make', Agent::class);
    Route::post('/agents/{agent}', [C\AgentController::class, 'update'])->can('tend', 'agent')->whereNumber('agent');
    Route::post('/alarms/{alarm}', [C\AlarmController::class, 'update'])->can('take', 'alarm');
    Route::post('/sources', C\TakeUpController::class)->can('see-estate');
    Route::post('/stores/{store:name}/checks', C\CheckPlanController::class)->can('tend', 'store');
    Route::get('/search', C\SearchController::class);

    Route::middleware('can:see-trail')->group(function (): void {
        Route::get('/trail', [C\TrailController::class, 'index']);
        Route::get('/trail.jsonl', [C\TrailController::class, 'export']);
    });
    Route::middleware('can:see-rights')->group(function (): void {
        Route::get('/rights', [C\RightController::class, 'index']);
        Route::get('/rights/{sort}/{id}', [C\RightController::class, 'show'])->whereNumber('id');
        Route::get('/people', [C\PersonController::class, 'index']);
        Route::get('/people/{user}', [C\PersonController::class, 'show']);
    });
    Route::post('/rights/{sort}/{id}', [C\RightController::class, 'update'])->whereNumber('id')
        ->can('administer')->middleware(PasswordAgain::class);
    Route::post('/people/{user}', [C\PersonController::class, 'update'])->can('administer')->middleware(PasswordAgain::class);

    Route::get('/sets/{backupSet}/file', C\TakeFileController::class)->can('open', 'backupSet');
    Route::get('/sets/{backupSet}/look', [C\LookController::class, 'show'])->can('open', 'backupSet');
    Route::get('/sets/{backupSet}/picture', [C\LookController::class, 'picture'])->can('open', 'backupSet');
    Route::get('/workloads/{workload}/versions', [C\VersionsController::class, 'index'])->can('browse', 'workload');
    Route::get('/workloads/{workload}/compare', [C\VersionsController::class, 'compare'])->can('browse', 'workload');

    Route::get('/requests/new', [C\RequestController::class, 'create'])->can('create', RecoveryRequest::class);
    Route::post('/requests', [C\RequestController::class, 'store'])->can('create', RecoveryRequest::class);
    Route::get('/requests/{recoveryRequest}', [C\RequestController::class, 'show'])->can('view', 'recoveryRequest');
    Route::post('/requests/{recoveryRequest}/answer', C\AnswerController::class)->can('answer', 'recoveryRequest');
    Route::middleware('can:work,recoveryRequest')->prefix('/requests/{recoveryRequest}')->group(function (): void {
        Route::post('/workload', C\ChooseWorkloadController::class);
        Route::post('/moment', C\ChooseMomentController::class);
        Route::post('/demands', C\ChangeDemandsController::class);
        Route::post('/copies', C\ChooseCopiesController::class);
        Route::post('/bring', C\BringNearController::class);
        Route::get('/hand-sheet', C\HandSheetController::class);
        Route::post('/start', C\ChooseStartController::class);
        Route::post('/run', C\StartRunController::class);
    });

    Route::get('/approvals/{approval}', [C\ApprovalController::class, 'show'])->can('view', 'approval');
    Route::post('/approvals/{approval}', [C\ApprovalController::class, 'update']);

    Route::get('/consents/{consent}', [C\ConsentController::class, 'show'])->can('view', 'consent');
    Route::post('/consents/{consent}', [C\ConsentController::class, 'update']);

    Route::get('/runs/{run}/download', C\DownloadController::class)->can('download', 'run');
    Route::post('/runs/{run}/resume', C\ResumeRunController::class)->can('stop', 'run');
    Route::post('/runs/{run}/put-back', C\PutBackController::class)->can('putBack', 'run');
    Route::post('/runs/{run}/set-aside', C\SetAsideController::class)->can('stop', 'run')->middleware(PasswordAgain::class);
    Route::get('/runs/{run}', [C\ProofController::class, 'show'])->can('view', 'run');
    Route::get('/runs/{run}/progress', C\RunProgressController::class)->can('view', 'run');
    Route::get('/runs/{run}/{which}', C\DownloadProofController::class)
        ->where('which', 'proof|manifest|page|pdf|left_out|differences|from_other_points')
        ->can('view', 'run');
    Route::post('/runs/{run}/stop', C\StopRunController::class)->can('halt', 'run');
});

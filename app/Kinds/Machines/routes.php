<?php

declare(strict_types=1);

use App\Http\Middleware\PasswordAgain;
use App\Kinds\Machines\Http\AnnexController;
use App\Kinds\Machines\Http\BlankController;
use App\Kinds\Machines\Http\ChooseMachineController;
use App\Kinds\Machines\Http\EnrolmentController;
use App\Kinds\Machines\Http\HomeController;
use App\Kinds\Machines\Http\ImageController;
use App\Kinds\Machines\Http\MachineController;
use App\Kinds\Machines\Http\MediaController;
use App\Kinds\Machines\Http\OwnMachinesController;
use App\Kinds\Machines\Http\SearchController;
use App\Kinds\Machines\Http\SettleController;
use App\Kinds\Machines\Http\SnapshotController;
use App\Kinds\Machines\Machines;
use App\Kinds\Machines\Metal\KeptMedium;
use App\Kinds\OfKind;
use Illuminate\Support\Facades\Route;

Route::post('/requests/{recoveryRequest}/machine', ChooseMachineController::class)->can('work', 'recoveryRequest');
Route::post('/requests/{recoveryRequest}/machine/search', SearchController::class)->can('work', 'recoveryRequest');
// Also of workloads of another kind, whose sets a machine sent of itself: MetalSources says which.
Route::post('/requests/{recoveryRequest}/enrolment', [EnrolmentController::class, 'open'])->can('work', 'recoveryRequest')
    ->withoutMiddleware(OfKind::class.':'.Machines::NAME);
Route::get('/requests/{recoveryRequest}/blank', [BlankController::class, 'show'])->can('work', 'recoveryRequest')
    ->withoutMiddleware(OfKind::class.':'.Machines::NAME);
Route::post('/requests/{recoveryRequest}/blank', [BlankController::class, 'decide'])->can('work', 'recoveryRequest')
    ->withoutMiddleware(OfKind::class.':'.Machines::NAME);
Route::get('/enrolments/{enrolment}', [EnrolmentController::class, 'show'])->can('view', 'enrolment')->whereNumber('enrolment');
Route::post('/enrolments/{enrolment}', [EnrolmentController::class, 'decide'])->can('order', 'enrolment')->whereNumber('enrolment');
Route::get('/media', [MediaController::class, 'index'])->can('make', KeptMedium::class);
Route::post('/media', [MediaController::class, 'make'])->can('make', KeptMedium::class);
Route::get('/media/{file}', [MediaController::class, 'take'])->can('make', KeptMedium::class)->where('file', '[a-z0-9.]{1,40}');
// Of machines that people bring onto other disks themselves: each asks what they may.
Route::withoutMiddleware(OfKind::class.':'.Machines::NAME)->prefix('/own-machines')->group(function (): void {
    Route::get('/', [OwnMachinesController::class, 'index']);
    Route::post('/{workload}/code', [OwnMachinesController::class, 'code'])->whereNumber('workload');
    Route::get('/enrolments/{enrolment}', [OwnMachinesController::class, 'show'])->can('rebuild', 'enrolment')->whereNumber('enrolment');
    Route::post('/enrolments/{enrolment}', [OwnMachinesController::class, 'decide'])->can('rebuild', 'enrolment')
        ->whereNumber('enrolment');
});
Route::post('/runs/{run}/settle', SettleController::class)->can('stop', 'run');
Route::post('/runs/{run}/inside', [AnnexController::class, 'inside'])->can('stop', 'run');
Route::post('/runs/{run}/scan', [AnnexController::class, 'scan'])->can('stop', 'run');
Route::post('/runs/{run}/findings/{finding}', [AnnexController::class, 'decide'])->can('stop', 'run')->whereNumber('finding');
Route::post('/runs/{run}/release', [AnnexController::class, 'release'])->can('stop', 'run');
Route::post('/runs/{run}/stand-in', [HomeController::class, 'standIn'])->can('stop', 'run');
Route::post('/runs/{run}/home', [HomeController::class, 'goHome'])->can('stop', 'run');
Route::post('/runs/{run}/accept', [HomeController::class, 'accept'])->can('stop', 'run')->middleware(PasswordAgain::class);
Route::get('/runs/{run}/annex.pcapng', [AnnexController::class, 'record'])->can('stop', 'run');
Route::get('/runs/{run}/images/{file}', ImageController::class)->can('download', 'run');
Route::prefix('/hypervisors/{hypervisor}/machines/{machine}')
    ->can('view', 'hypervisor')
    ->whereNumber('hypervisor')
    ->group(function (): void {
        Route::get('/', [MachineController::class, 'show']);
        Route::get('/screen', [MachineController::class, 'screen']);
        Route::post('/look', [MachineController::class, 'look']);
        Route::post('/turn', [MachineController::class, 'turn']);
        Route::post('/type', [MachineController::class, 'type']);
        Route::post('/snapshot', SnapshotController::class);
    });

<?php

declare(strict_types=1);

use App\Http\Middleware\LookAgain;
use App\Kinds\Items\Http as I;
use Illuminate\Support\Facades\Route;

Route::middleware('can:work,recoveryRequest')->prefix('/requests/{recoveryRequest}/items')->group(function (): void {
    Route::post('/', I\ChooseItemsController::class);
    Route::post('/look', I\LookAtMailboxesController::class)->withoutMiddleware(LookAgain::class); // it changes nothing
    Route::get('/{item}/letter', [I\OpenItemController::class, 'letter'])->where('item', '[0-9a-f]{16,64}');
    Route::get('/{item}/source', [I\OpenItemController::class, 'source'])->where('item', '[0-9a-f]{16,64}');
    Route::get('/{item}/part/{number}', [I\OpenItemController::class, 'part'])
        ->where('item', '[0-9a-f]{16,64}')
        ->where('number', '[0-9]{1,4}');
});
Route::get('/own', [I\OwnItemsController::class, 'index']);
Route::prefix('/own/{workload}')->group(function (): void {
    // Each asks whose mailbox it is, before anything else: see OwnItemRequest.
    Route::get('/', [I\OwnItemsController::class, 'show']);
    Route::post('/pick', [I\OwnItemsController::class, 'pick']);
    Route::get('/order', [I\OwnItemsController::class, 'confirm']);
    Route::post('/order', [I\OwnItemsController::class, 'store']);
    Route::get('/{item}/letter', [I\OpenOwnItemController::class, 'letter'])->where('item', '[0-9a-f]{16,64}');
    Route::get('/{item}/source', [I\OpenOwnItemController::class, 'source'])->where('item', '[0-9a-f]{16,64}');
    Route::get('/{item}/part/{number}', [I\OpenOwnItemController::class, 'part'])
        ->where('item', '[0-9a-f]{16,64}')
        ->where('number', '[0-9]{1,4}');
});
Route::post('/workloads/{workload}/own-items', I\OwnRuleController::class)->can('tend', 'workload');
Route::post('/runs/{run}/seen', I\SeeAsUserController::class)->can('hear', 'run');
Route::get('/runs/{run}/zip', I\TakeZipController::class)->can('download', 'run');

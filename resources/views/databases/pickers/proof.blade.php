@include('requests.pickers.proof')

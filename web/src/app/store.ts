import { combineReducers, configureStore } from '@reduxjs/toolkit';
import { useDispatch, useSelector } from 'react-redux';
import { pendingKeeping } from '../song/pendingKeeping.js';
import { songReducer } from '../song/songSlice.js';
import { SongSync } from '../song/songSync.js';
import { viewKeeping } from './viewKeeping.js';
import { viewReducer } from './viewSlice.js';

const reducer = combineReducers({ song: songReducer, view: viewReducer });
export type AppState = ReturnType<typeof reducer>;

/** The store: the document, the selection and the view. What changes with every picture never goes through it. */
export const store = configureStore({
  reducer,
  // The checks walk the whole song at every action; the song is plain data by construction.
  middleware: (defaults) =>
    defaults({ immutableCheck: false, serializableCheck: false }).concat(
      viewKeeping.middleware,
      pendingKeeping.middleware,
    ),
});

export const songSync = new SongSync(store);
export type AppDispatch = typeof store.dispatch;
export const useAppDispatch = useDispatch.withTypes<AppDispatch>();
export const useAppSelector = useSelector.withTypes<AppState>();
